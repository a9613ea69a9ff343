#!/bin/sh
# Ends the Slurm that start.sh started in FOLDER.
folder=$1
export SLURM_CONF="$folder/slurm.conf"
scancel --full --state=RUNNING 2> /dev/null
scancel --state=PENDING 2> /dev/null
for i in $(seq 25); do
  [ -z "$(squeue -h 2> /dev/null)" ] && break
  sleep 0.2
done
for name in slurmd-first slurmd-second slurmctld munged; do
  [ -f "$folder/$name.pid" ] && kill "$(cat "$folder/$name.pid")" 2> /dev/null
done
exit 0

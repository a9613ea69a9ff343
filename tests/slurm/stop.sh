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
pids=""
for name in slurmd-first slurmd-second slurmctld munged; do
  [ -f "$folder/$name.pid" ] && pids="$pids $(cat "$folder/$name.pid")"
done
[ -n "$pids" ] && kill $pids 2> /dev/null
# they still write while they end
for i in $(seq 50); do
  kill -0 $pids 2> /dev/null || break
  sleep 0.1
done
exit 0

#!/bin/sh
# Starts a Slurm of two nodes on this machine, for tests: `start.sh FOLDER`. All of it stands in FOLDER, which stop.sh ends by
# the process ids that stand there. Needs Debian's slurmctld, slurmd, slurm-client and munge, and root.
set -eu
folder=$1
mkdir -p "$folder/state" "$folder/spool1" "$folder/spool2" "$folder/munge"
host=$(hostname -s)
munged=$folder/munge/munge.socket
dd if=/dev/urandom of="$folder/munge/munge.key" bs=1 count=1024 2> /dev/null
chmod 400 "$folder/munge/munge.key"
chmod 755 "$folder" "$folder/munge"
munged --force --key-file="$folder/munge/munge.key" --socket="$munged" --pid-file="$folder/munged.pid" \
  --log-file="$folder/munged.log" --seed-file="$folder/munge/munge.seed"
cat > "$folder/slurm.conf" <<CONF
ClusterName=valdehoz
SlurmctldHost=$host(127.0.0.1)
SlurmUser=root
SlurmctldPort=16817
AuthType=auth/munge
CredType=cred/munge
AuthInfo=socket=$munged
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
SelectType=select/cons_tres
ReturnToService=2
MpiDefault=none
SlurmctldPidFile=$folder/slurmctld.pid
SlurmdPidFile=$folder/slurmd-%n.pid
SlurmctldLogFile=$folder/slurmctld.log
SlurmdLogFile=$folder/slurmd-%n.log
StateSaveLocation=$folder/state
SlurmdSpoolDir=$folder/spool-%n
NodeName=first NodeHostname=$host NodeAddr=127.0.0.1 Port=17001 CPUs=2 RealMemory=2000
NodeName=second NodeHostname=$host NodeAddr=127.0.0.1 Port=17002 CPUs=2 RealMemory=2000
PartitionName=all Nodes=first,second Default=YES MaxTime=INFINITE State=UP OverSubscribe=YES
CONF
export SLURM_CONF="$folder/slurm.conf"
slurmctld
slurmd -N first
slurmd -N second
for i in $(seq 100); do
  [ "$(sinfo -h -N -t idle -o %N 2> /dev/null | sort -u | wc -l)" = 2 ] && exit 0
  sleep 0.2
done
echo "Slurm did not start: see the logs in $folder" >&2
exit 1

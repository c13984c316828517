#!/bin/busybox sh
# First program of the RAM disk: loads what the kernel lacks, finds the root file system by its id, and goes on there.
/bin/busybox --install -s /bin
export PATH=/bin
mkdir -p /proc /sys /dev /root
mount -t proc none /proc
mount -t sysfs none /sys
mount -t devtmpfs none /dev
while read -r module; do insmod "/modules/$module.ko"; done </modules/order
for word in $(cat /proc/cmdline); do
  case "$word" in root=*) wanted=${word#root=} ;; esac
done
tries=0
while [ -z "$root" ] && [ $tries -lt 20 ]; do
  root=$(blkid -t "$wanted" -o device)
  [ -n "$root" ] || sleep 1
  tries=$((tries + 1))
done
echo "@root $wanted $root"
mount -t ext4 -o ro "$root" /root || { echo '@failed'; reboot -f; }
mount --move /dev /root/dev
exec switch_root /root /sbin/init

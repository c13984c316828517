#!/bin/busybox sh
# First program of the guest: looks at every disk and tells what it sees, one "@..." line a fact.
/bin/busybox --install -s /bin
export PATH=/bin
mkdir -p /proc /sys /dev /mnt /tmp
mount -t proc none /proc
mount -t sysfs none /sys
mount -t devtmpfs none /dev
while read -r module; do insmod "/modules/$module.ko"; done </modules/order
sleep 1

# Largest volume, in bytes, that is filled to the last cluster.
FILL_LIMIT=536870912

fact() { echo "@fact $1=$2"; }

sums() { find /mnt -type f | sort | xargs -d '\n' cat | md5sum | cut -d' ' -f1; }

try_fat() {
  mount -t vfat -o rw,utf8 "$1" /mnt || { fact mounted no; return; }
  fact mounted yes
  set -- "$1" $(stat -f -c '%s %b %f' /mnt)
  fact cluster "$2"
  fact free $(($2 * $4))
  if [ $(($2 * $3)) -le $FILL_LIMIT ]; then
    dd if=/dev/zero of=/mnt/fill bs=65536 2>/tmp/dd
    # The kernel fills whole pages; what is left of the last one is filled by single sectors.
    dd if=/dev/zero bs=512 2>/tmp/dd >>/mnt/fill
    grep -q 'No space left' /tmp/dd && fact full yes
    fact filled "$(stat -c %s /mnt/fill)"
    rm /mnt/fill
  fi
  i=0
  while [ $i -lt 300 ]; do
    echo "reading $i at $(($i * 37))" >"/mnt/Gauge reading number $i of the Marram Coast.csv"
    i=$((i + 1))
  done
  before=$(sums)
  umount /mnt
  mount -t vfat -o rw,utf8 "$1" /mnt || { fact remounted no; return; }
  fact files "$(ls /mnt | wc -l)"
  [ "$before" = "$(sums)" ] && fact kept yes
  umount /mnt
}

for disk in /sys/block/vd*; do
  name=$(basename "$disk")
  [ -e "$disk" ] || continue
  echo "@disk $(cat "$disk/size") $(cat "$disk/queue/logical_block_size")"
  for partition in "$disk/$name"*; do
    [ -e "$partition/partition" ] || continue
    node=/dev/$(basename "$partition")
    echo "@partition $(cat "$partition/partition") $(cat "$partition/start") $(cat "$partition/size")"
    blkid -p -o export "$node" | while read -r line; do echo "@fact $line"; done
    if blkid -p -o export "$node" | grep -q '^TYPE=vfat'; then try_fat "$node"; fi
  done
done
dmesg | while read -r line; do echo "@log $line"; done
echo @end
reboot -f

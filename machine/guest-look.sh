#!/bin/busybox sh
# Looks at every disk and tells what it sees, one "@..." line a fact. guest-start.sh has run before.

# Largest volume, in bytes, that is filled to the last cluster.
FILL_LIMIT=536870912

fact() { echo "@fact $1=$2"; }

sums() { find /mnt -type f -print0 | LC_ALL=C sort -z | xargs -0 cat | md5sum | cut -d' ' -f1; }

# Names and contents of all files, as one sum: of the lines that md5sum makes of them, in the order of their bytes.
tree() {
  (cd /mnt && find . -type f -print0 | LC_ALL=C sort -z | xargs -0 -r md5sum) | md5sum | cut -d' ' -f1
}

# When each file was written and who may write it, as one sum.
stats() {
  (cd /mnt && find . -type f -print0 | xargs -0 -r stat -c '%Y %a %n' | LC_ALL=C sort) | md5sum | cut -d' ' -f1
}

# Mounts a volume of a kind, looks at what is in it, fills it up, and uses it.
try_volume() {
  how="-t $2 -o rw,$3"
  mount $how "$1" /mnt || { fact mounted no; return; }
  fact mounted yes
  fact found "$(find /mnt -type f | wc -l)"
  fact tree "$(tree)"
  fact stats "$(stats)"
  set -- "$1" $(stat -f -c '%s %b %f' /mnt)
  fact cluster "$2"
  fact free $(($2 * $4))
  if [ "$fills" = yes ] && [ $(($2 * $3)) -le $FILL_LIMIT ] && [ "$4" -gt 0 ]; then
    # A folder that is full to its last entry takes a cluster for the next one.
    : >/mnt/fill
    fact entry $(($2 * ($4 - $(stat -f -c %f /mnt))))
    dd if=/dev/zero of=/mnt/fill bs=65536 2>/tmp/dd
    # The kernel fills whole pages; what is left of the last one is filled by single sectors.
    dd if=/dev/zero bs=512 2>/tmp/dd >>/mnt/fill
    grep -q 'No space left' /tmp/dd && fact full yes
    fact filled "$(stat -c %s /mnt/fill)"
    rm /mnt/fill
  fi
  # Some volumes have no room for all of them.
  i=0
  while [ $i -lt 150 ]; do
    echo "reading $i at $(($i * 37))" >"/mnt/Gauge reading number $i of the Marram Coast.csv"
    i=$((i + 1))
  done 2>/dev/null
  before=$(sums)
  umount /mnt
  mount $how "$1" /mnt || { fact remounted no; return; }
  fact files "$(ls /mnt | wc -l)"
  [ "$before" = "$(sums)" ] && fact kept yes
  umount /mnt
}

# Switches swap on and off again.
try_swap() {
  swapon "$1" && fact swapped "$(tail -n 1 /proc/swaps | awk '{ print $3 }')" && swapoff "$1" && fact unswapped yes
}

# What stands at a node, and what its file system makes of being used.
look_into() {
  type=
  named=
  while read -r line; do
    [ -n "$line" ] && echo "@fact $line"
    case "$line" in
      TYPE=*) type=${line#TYPE=} ;;
      PART_ENTRY_NAME=*) named=yes ;;
    esac
  done <<EOF
$(blkid -p -o export "$1")
EOF
  # The other form of output writes what is not ASCII in a way of its own.
  [ -n "$named" ] && fact PART_ENTRY_NAME "$(blkid -p -o value -s PART_ENTRY_NAME "$1")"
  case "$type" in
    vfat) try_volume "$1" vfat utf8 ;;
    exfat) try_volume "$1" exfat iocharset=utf8 ;;
    swap) try_swap "$1" ;;
    ext[234])
      case "$work" in
        c*)
          # Worked on until the machine is ended: letters say how it is mounted, then comes a number of its own.
          how=commit=1,noinit_itable
          case "$work" in *j*) how=$how,data=journal ;; esac
          case "$work" in *s*) how=$how,journal_checksum ;; esac
          case "$work" in *a*) how=$how,data=writeback,journal_async_commit ;; esac
          case "$work" in *d*) how=$how,nodelalloc ;; esac
          cuts=yes
          ext-cut "$1" "$type" "$how" "${work##*[a-z]}" &
          return
          ;;
      esac
      ext-look "$1" "$type" "-$work" ;;
  esac
}

disks=0
for disk in /sys/block/vd*; do
  name=${disk##*/}
  read -r serial <"$disk/serial"
  case "$serial" in none | programs) continue ;; esac
  disks=$((disks + 1))
  read -r size <"$disk/size"
  read -r sector <"$disk/queue/logical_block_size"
  echo "@disk $serial $size $sector"
  whole=yes
  case "$serial" in fill*) fills=yes ;; *) fills=no ;; esac
  work=${serial#*-}
  work=${work%-*}
  for partition in "$disk/$name"*; do
    [ -e "$partition/partition" ] || continue
    whole=no
    read -r number <"$partition/partition"
    read -r start <"$partition/start"
    read -r length <"$partition/size"
    echo "@partition $number $start $length"
    look_into "/dev/${partition##*/}"
  done
  if [ $whole = yes ]; then
    echo "@partition 0 0 $size"
    look_into "/dev/$name"
  fi
done
if [ -n "$cuts" ]; then
  while [ "$(grep -c ' /cut/' /proc/mounts)" -lt "$disks" ]; do sleep 1; done
  : >/tmp/all
  wait
fi
dmesg | while read -r line; do echo "@log $line"; done
sync
echo @end
# The reader of this ends the machine: a restart would cut off what the console has not said yet.
while :; do sleep 1; done

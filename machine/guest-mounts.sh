#!/bin/busybox sh
# Uses mount tables: mounts all of each, tells what came of it, and tries lines that are wrong. guest-start.sh has run before.
export PATH=/debian:/bin
mkdir -p /run /etc

for disk in /sys/block/vd*; do
  serial=$(cat "$disk/serial")
  case "$serial" in none | programs) continue ;; esac
  echo "@disk $(basename "$disk") ${serial##*-}"
done

# What is mounted below a folder, who owns the root of each, and who a new file in it.
tell() {
  grep " $1" /proc/self/mountinfo | while read -r _ _ _ _ point options rest; do
    [ "${rest%% - *}" = "$rest" ] && rest=${rest#*- } || rest=${rest##* - }
    rest=${rest#- }
    echo "@mount $point $options $rest"
    decoded=$(printf '%b' "$point")
    echo "@root $(stat -c '%u:%g %a' "$decoded")"
    if touch "$decoded/a new file" 2>/tmp/touch; then
      echo "@new $(stat -c '%u:%g' "$decoded/a new file")"
      rm "$decoded/a new file"
    fi
  done
}

# Mounts all of the table below a folder. The root is passed over by “all”: a kernel mounted it before.
all() {
  mkdir -p "$1"
  sed -n "s|^\([^# ]* *\)/ |\1$1 |p" /etc/fstab >/tmp/root
  /debian/mount --all --fstab /tmp/root
  /debian/mount --all --target-prefix "$1" -o X-mount.mkdir
}

for table in /tables/*; do
  name=$(basename "$table")
  cp "$table" /etc/fstab
  echo "@table $name"
  case "$name" in
    busybox*)
      # It knows no folder to begin at: what it mounts lies where the table says.
      sed 's/#.*//' /etc/fstab | while read -r _ point _; do
        case "$point" in /*) mkdir -p "$point" && /bin/busybox mount "$point" 2>&1 ;; esac
      done | while read -r line; do echo "@says $line"; done
      tell /srv/busybox
      /bin/busybox swapon -a 2>&1 | while read -r line; do echo "@says $line"; done
      ;;
    *)
      all "/mnt/$name" 2>&1 | while read -r line; do echo "@says $line"; done
      tell "/mnt/$name"
      /debian/swapon --all 2>&1 | while read -r line; do echo "@says $line"; done
      ;;
  esac
  tail -n +2 /proc/swaps | while read -r device _ size _ priority; do echo "@swap $device $priority"; done
  swapoff -a
  # The deepest first.
  grep -E " (/mnt/|/srv/)" /proc/self/mountinfo | cut -d' ' -f5 | sort -r | while read -r point; do umount "$(printf '%b' "$point")"; done
done

for table in /wrong/*; do
  cp "$table" /etc/fstab
  echo "@wrong $(basename "$table")"
  all /mnt >/tmp/said 2>&1
  echo "@ended $?"
  while read -r line; do echo "@says $line"; done </tmp/said
  grep " /mnt" /proc/self/mountinfo | while read -r _ _ _ _ point _; do echo "@mount $point"; done
  grep " /mnt" /proc/self/mountinfo | cut -d' ' -f5 | sort -r | while read -r point; do umount "$(printf '%b' "$point")"; done
done
# Options one by one: which of them the kernel refuses.
while read -r type option device; do
  /debian/mount -t "$type" -o "$option" "/dev/$device" /mnt 2>/tmp/said && umount /mnt || echo "@refused $type $option"
done </options
dmesg | while read -r line; do echo "@log $line"; done
sync
echo @end
# The reader of this ends the machine: a restart would cut off what the console has not said yet.
while :; do sleep 1; done

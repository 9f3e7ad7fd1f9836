#!/bin/sh
# Stands in for the service manager where there is none: reads a unit as it is, and runs what it says as the user that it names.
set -e
unit=/etc/systemd/system/bussola.service
value() { sed -n "s/^$1=//p" "$unit"; }
case "$1" in
  daemon-reload) test -f "$unit" ;;
  enable)
    cd "$(value WorkingDirectory)"
    # Each variable of its lines, then what it starts.
    exec setsid --fork runuser -u "$(value User)" -- env $(value Environment | tr '\n' ' ') $(value ExecStart) > /var/log/bussola.log 2>&1 < /dev/null
    ;;
  *) echo "systemctl: $1 is not known here" >&2; exit 1 ;;
esac

#!/usr/bin/env bash
# Builds a Debian package of the program.
#   deploy/package.sh FOLDER      FOLDER/gatechain_VERSION_MACHINE.deb
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(realpath "$1")
root=$(mktemp -d)
trap 'rm -rf "$root"' EXIT
chmod 755 "$root"
deploy/install.sh /usr "$root"
version=$("$root/usr/bin/gatechain" --version | cut -d+ -f1)
machine=$(dpkg --print-architecture)
gzip -9n "$root/usr/share/man/man1/gatechain.1"
mkdir -p "$root/DEBIAN" "$root/etc/gatechain"
cat > "$root/etc/gatechain/gatechain.yaml" <<END
# Options of the service; gatechain serve --help names them, gatechain config shows what holds.
listen: http://127.0.0.1:8480
END
echo /etc/gatechain/gatechain.yaml > "$root/DEBIAN/conffiles"
cat > "$root/DEBIAN/control" <<END
Package: gatechain
Version: $version
Architecture: $machine
Maintainer: Gate Chain <gatechain@larkmoor.example>
Section: utils
Priority: optional
Installed-Size: $(du -sk "$root" | cut -f1)
Depends: libc6, libgcc-s1, libssl3 | libssl3t64, libstdc++6, adduser
Recommends: ca-certificates
Description: control flows for ETL
 A service with a command line and a web console: steps joined by gates, loops and child chains, checkpoints, so that
 a failed run continues from the failing step.
END
cat > "$root/DEBIAN/postinst" <<'END'
#!/bin/sh
set -e
if [ "$1" = configure ]; then
  getent passwd gatechain > /dev/null || adduser --system --group --home /var/lib/gatechain --no-create-home --quiet gatechain
  install -d -o gatechain -g gatechain -m 700 /var/lib/gatechain
  [ -d /srv/gatechain ] || install -d -o gatechain -g gatechain -m 750 /srv/gatechain
  if [ -d /run/systemd/system ]; then
    systemctl daemon-reload
    # Who was at work goes on with the new program; who was not is not started unasked.
    systemctl try-restart gatechain || true
  fi
fi
END
cat > "$root/DEBIAN/prerm" <<'END'
#!/bin/sh
set -e
if [ "$1" = remove ] && [ -d /run/systemd/system ]; then systemctl stop gatechain || true; fi
END
cat > "$root/DEBIAN/postrm" <<'END'
#!/bin/sh
set -e
# What people have made stays, also when the package is purged: /var/lib/gatechain and /srv/gatechain.
if [ -d /run/systemd/system ]; then systemctl daemon-reload || true; fi
END
chmod 755 "$root"/DEBIAN/{postinst,prerm,postrm}
dpkg-deb --root-owner-group -Zxz -z1 --build "$root" "$folder/gatechain_${version}_$machine.deb" > /dev/null
echo "$folder/gatechain_${version}_$machine.deb"

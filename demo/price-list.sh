#!/usr/bin/env bash
# The price office's story, on the service that demo/play.sh has started: an SFTP server of OpenSSH on loopback, with keys
# made for this one time. Without OpenSSH's server the story is left out (as root it is installed).
set -euo pipefail
cd "$(dirname "$0")/.."
work=$PWD/demo/out
config=${CONFIG:-Release}
gatechain=artifacts/bin/GateChain.Cli/${config,,}/gatechain
export GATECHAIN_SERVICE=${GATECHAIN_SERVICE:-http://127.0.0.1:${PORT:-8480}}
echo
if [ ! -x /usr/sbin/sshd ] && [ "$(id -u)" = 0 ]; then
  # Debian starts servers when they are installed; nobody needs this one.
  [ -e /usr/sbin/policy-rc.d ] || { printf '#!/bin/sh\nexit 101\n' > /usr/sbin/policy-rc.d; chmod +x /usr/sbin/policy-rc.d; }
  (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends openssh-server) > /dev/null 2>&1 || true
fi
if [ ! -x /usr/sbin/sshd ]; then
  echo "The price list comes by SFTP: left out, since OpenSSH's server is not installed (Debian's package openssh-server)."
  exit 0
fi
echo "The price list comes by SFTP, from a server whose key is known:"
office=$work/price-office
rm -rf "$office"
mkdir -p "$office/files/prices" "$office/files/fetched" "$office/workspace"
[ "$(id -u)" = 0 ] && mkdir -p /run/sshd
for name in host user; do ssh-keygen -q -t ed25519 -N '' -C $name -f "$office/$name"; done
cp "$office/user.pub" "$office/allowed"
cat > "$office/config" <<CONFIG
Port 8483
ListenAddress 127.0.0.1
HostKey $office/host
PidFile $office/pid
AuthorizedKeysFile $office/allowed
StrictModes no
UsePAM no
PermitRootLogin yes
PasswordAuthentication no
Subsystem sftp internal-sftp -d $office/files
CONFIG
/usr/sbin/sshd -D -e -f "$office/config" > "$office/log" 2>&1 &
server=$!
trap 'kill $server 2> /dev/null || true' EXIT
printf 'valid_from,cents_per_litre\n2026-11-01,43.2\n2026-11-22,44.1\n2026-12-01,44.9\n' > "$office/files/prices/prices-2026-12.csv"
cp -r demo/workspace/. "$office/workspace/"
key=$(ssh-keygen -l -f "$office/host.pub" | cut -d' ' -f2)
sed -i "/^price-office:/,\$ s|user: larkmoor|user: $(id -un)\n  hostKey: $key|" "$office/workspace/connections.yaml"
"$gatechain" push "$office/workspace" > /dev/null
"$gatechain" secret set price-office-key < "$office/user" > /dev/null
"$gatechain" connections price-office --check
"$gatechain" run price-list --follow

#!/usr/bin/env bash
# Builds the Debian package, installs it here, lets it work, removes it, and looks at each step whether it is as it has
# to be. As root, on a machine where no Gate Chain is installed. Part of make test-long.
#   deploy/try-package.sh [PACKAGE]      with one that is built already
set -euo pipefail
cd "$(dirname "$0")/.."
[ "$(id -u)" = 0 ] || { echo "only root installs packages: left out"; exit 0; }
[ ! -e /usr/bin/gatechain ] || { echo "a Gate Chain is installed here: left alone" >&2; exit 1; }
work=$(mktemp -d)
pid=
end() {
  [ -z "$pid" ] || kill "$pid" 2> /dev/null || true
  dpkg -s gatechain > /dev/null 2>&1 && dpkg --purge gatechain > /dev/null 2>&1 || true
  [ -z "${made:-}" ] || rm -rf /var/lib/gatechain /srv/gatechain
  rm -rf "$work"
}
trap end EXIT
must() { echo "  $1" >&2; shift; "$@" || { echo "FAILED: $*" >&2; exit 1; }; }

package=${1:-$(deploy/package.sh "$work")}
[ -e /var/lib/gatechain ] || made=1
must "installed" dpkg -i "$package" > /dev/null
must "the data folder is the service's own" test "$(stat -c %U:%a /var/lib/gatechain)" = gatechain:700
must "it says its version" sh -c 'gatechain --version | grep -q "^[0-9]"'
must "a manual page" sh -c 'zcat /usr/share/man/man1/gatechain.1.gz | grep -q "^.TH GATECHAIN"'
must "completion" bash -c '. /usr/share/bash-completion/completions/gatechain && complete -p gatechain > /dev/null'
if command -v systemd-analyze > /dev/null; then must "a unit" systemd-analyze verify /usr/lib/systemd/system/gatechain.service; fi
must "a configuration that an upgrade leaves alone" sh -c 'dpkg-query -W -f "\${Conffiles}" gatechain | grep -q gatechain.yaml'

# As the unit starts it, but for its walls.
port=$(node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close(); })')
printf 'chain: hello\nsteps: { say: { kind: command, set: { run: [echo, hello] } } }\n' > "$work/hello.chain.yaml"
chmod -R a+rX "$work"
setpriv --reuid gatechain --regid gatechain --clear-groups env -C /srv/gatechain HOME=/var/lib/gatechain \
  GATECHAIN_DATA=/var/lib/gatechain GATECHAIN_WORK=/srv/gatechain GATECHAIN_LISTEN="http://127.0.0.1:$port" \
  /usr/bin/gatechain serve > "$work/service.log" 2>&1 &
pid=$!
for _ in $(seq 300); do curl -fs "http://127.0.0.1:$port/health/ready" > /dev/null && break; sleep 0.1; done
must "the service answers" curl -fs "http://127.0.0.1:$port/health/ready" > /dev/null
must "with its console" sh -c "curl -fs http://127.0.0.1:$port/ | grep -q '<div id=\"root\"'"
export GATECHAIN_SERVICE=http://127.0.0.1:$port
# No accounts yet: an administrator of the machine makes the first one there.
gatechain check "$work/hello.chain.yaml" > /dev/null
kill "$pid" && wait "$pid" || true
pid=
must "removed" dpkg -r gatechain > /dev/null
must "the program is gone" test ! -e /usr/bin/gatechain
must "what people made stays" test -e /var/lib/gatechain/gatechain.db
must "installed again" dpkg -i "$package" > /dev/null
must "purged" dpkg --purge gatechain > /dev/null
must "its configuration is gone" test ! -e /etc/gatechain/gatechain.yaml
must "and what people made stays" test -e /var/lib/gatechain/gatechain.db
echo "the package is as it has to be"

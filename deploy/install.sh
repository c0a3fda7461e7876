#!/usr/bin/env bash
# Installs the program with all that it needs: it runs without the .NET SDK.
#   deploy/install.sh PREFIX [ROOT]     PREFIX/lib/gatechain, PREFIX/bin/gatechain; below ROOT, for packages
set -euo pipefail
cd "$(dirname "$0")/.."
prefix=$1 root=${2:-}
lib=$root$prefix/lib/gatechain
case $(uname -m) in
  x86_64) machine=linux-x64 ;;
  aarch64) machine=linux-arm64 ;;
  *) echo "there is no program for $(uname -m)" >&2; exit 1 ;;
esac
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
# Compiled ahead, so that it starts at once.
dotnet publish src/GateChain.Cli -c Release -r "$machine" --self-contained -p:PublishReadyToRun=true \
  -p:RunAnalyzers=false -p:ArtifactsPath="$work/artifacts" -o "$work/lib" -v quiet --nologo
mkdir -p "$work/lib/console"
cp -r console/dist/. "$work/lib/console/"
# In the place of an older one at once: nobody finds half of each.
mkdir -p "$(dirname "$lib")" "$root$prefix/bin" "$root$prefix/share/man/man1" "$root$prefix/share/bash-completion/completions"
rm -rf "$lib.new" "$lib.old"
cp -r "$work/lib" "$lib.new"
[ ! -e "$lib" ] || mv "$lib" "$lib.old"
mv "$lib.new" "$lib"
rm -rf "$lib.old"
ln -sfn ../lib/gatechain/gatechain "$root$prefix/bin/gatechain"
deploy/manual.sh "$lib/gatechain" > "$root$prefix/share/man/man1/gatechain.1"
install -m 644 deploy/completion.bash "$root$prefix/share/bash-completion/completions/gatechain"
mkdir -p "$root$prefix/lib/systemd/system"
sed "s|@PREFIX@|$prefix|" deploy/gatechain.service > "$root$prefix/lib/systemd/system/gatechain.service"

#!/usr/bin/env bash
# Compiles the program's assemblies to machine code ahead of time (ReadyToRun): whoever starts it many times starts it
# quicker. Does nothing where the compiler can't be fetched.
#   tests/precompile.sh [folder of the program]
set -uo pipefail
cd "$(dirname "$0")/.."
out=${1:-artifacts/bin/GateChain.Cli/release}
kept=artifacts/precompiled
# The compiler has the runtime's version.
runtime=$(dotnet --list-runtimes | sed -nE 's/^Microsoft\.NETCore\.App ([0-9.]+) \[(.*)\]$/\1 \2/p' | tail -1)
version=${runtime%% *} shared=${runtime#* }
case $(uname -sm) in
  "Linux x86_64") rid=linux-x64 ;;
  "Linux aarch64") rid=linux-arm64 ;;
  *) exit 0 ;;
esac
mkdir -p "$kept"
cat > "$kept/fetch.proj" << PROJECT
<Project Sdk="Microsoft.NET.Sdk">
  <PropertyGroup><TargetFramework>net10.0</TargetFramework></PropertyGroup>
  <ItemGroup><PackageDownload Include="Microsoft.NETCore.App.Crossgen2.$rid" Version="[$version]" /></ItemGroup>
</Project>
PROJECT
packages=${NUGET_PACKAGES:-$HOME/.nuget/packages}
compiler=$packages/microsoft.netcore.app.crossgen2.$rid/$version/tools/crossgen2
[ -e "$compiler" ] || dotnet restore "$kept/fetch.proj" -v quiet -p:RestorePackagesWithLockFile=false > "$kept/fetch.log" 2>&1
[ -e "$compiler" ] || { echo "not precompiled: the compiler could not be fetched"; exit 0; }
chmod +x "$compiler"

one() {
  local name=$1
  # What was compiled from this very assembly is taken again.
  local mark
  mark=$(sha256sum "$out/$name" | cut -c1-32)
  if [ ! -e "$kept/$mark.dll" ]; then
    "$compiler" "$out/$name" -o "$kept/$mark.tmp" -r "$shared/$version/*.dll" \
      -r "${shared%/*}/Microsoft.AspNetCore.App/$version/*.dll" -r "$out/*.dll" \
      --targetos linux --targetarch "${rid#linux-}" -O > "$kept/$name.log" 2>&1 || { rm -f "$kept/$mark.tmp"; return 0; }
    mv "$kept/$mark.tmp" "$kept/$mark.dll"
  fi
  cp "$kept/$mark.dll" "$out/$name.new" && mv "$out/$name.new" "$out/$name"
}
export -f one
export out kept compiler shared version rid
ls "$out" | grep -E '^(GateChain\.|gatechain\.dll|Orleans\.|OpenIddict|Serilog|Npgsql|Dapper|YamlDotNet|System\.CommandLine|Spectre|Microsoft\.(Data|IdentityModel|OpenApi|AspNetCore|Extensions)|SQLitePCL|dbup|Cronos)' \
  | grep '\.dll$' | xargs -P "$(nproc)" -I{} bash -c 'one "$1"' _ {}

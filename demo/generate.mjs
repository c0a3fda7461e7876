// Makes the made-up data of Larkmoor Creamery: seeded, so that every run gives the same files.
// usage: node generate.mjs <folder> [--large]
import { mkdirSync, writeFileSync, rmSync, copyFileSync, readdirSync, createWriteStream } from "node:fs";
import { once } from "node:events";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { writeOddFiles } from "./odd-files.mjs";

const folder = process.argv[2];
if (!folder) {
  console.error("usage: node generate.mjs <folder> [--large]");
  process.exit(2);
}
const large = process.argv.includes("--large");
const here = dirname(fileURLToPath(import.meta.url));
const day = "2026-11-22";
// Broken lines per depot: the west depot has more than the chain lets pass.
const depots = [
  { name: "north", lines: large ? 1_000_000 : 1840, broken: 23 },
  { name: "south", lines: large ? 1_000_000 : 1512, broken: 11 },
  { name: "west", lines: large ? 1_000_000 : 1265, broken: 74 },
];

let seed = 20261122;
function random() {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
}
const whole = (from, to) => from + Math.floor(random() * (to - from + 1));
const two = (n) => String(n).padStart(2, "0");

function pickup(depot, n) {
  const taken = `${day}T${two(whole(3, 21))}:${two(whole(0, 59))}:${two(whole(0, 59))}Z`;
  return [
    `${depot[0].toUpperCase()}${String(n).padStart(6, "0")}`,
    depot,
    `farm-${String(whole(1, 180)).padStart(3, "0")}`,
    `T${two(whole(1, 24))}`,
    taken,
    (whole(2000, 98000) / 10).toFixed(1),
    (2 + random() * 4.6).toFixed(1),
  ];
}

function breakIt(fields) {
  const kind = whole(0, 2);
  if (kind === 0) fields[2] = "";
  else if (kind === 1) fields[5] = `-${fields[5]}`;
  else fields[4] = `${day} at ${whole(1, 12)} o'clock`;
  return fields;
}

for (const name of ["inbox", "archive", "office", "runs", "scripts", "laboratory", "ledger"])
  rmSync(join(folder, name), { recursive: true, force: true });
for (const name of ["warehouse.db", "warehouse.db-journal"]) rmSync(join(folder, name), { force: true });
mkdirSync(join(folder, "scripts"), { recursive: true });
for (const script of readdirSync(join(here, "scripts")))
  copyFileSync(join(here, "scripts", script), join(folder, "scripts", script));

let litres = 0;
for (const depot of depots) {
  mkdirSync(join(folder, "inbox", depot.name), { recursive: true });
  const broken = new Set();
  while (broken.size < depot.broken) broken.add(whole(1, depot.lines));
  const out = createWriteStream(join(folder, "inbox", depot.name, `pickups-${day}.csv`));
  out.write("pickup_id,depot,farm_id,tanker,taken_at,litres,temperature\n");
  for (let n = 1; n <= depot.lines; n++) {
    let fields = pickup(depot.name, n);
    if (broken.has(n)) fields = breakIt(fields);
    else litres += Number(fields[5]);
    if (!out.write(fields.join(",") + "\n")) await once(out, "drain");
  }
  out.end();
  await once(out, "finish");
}
writeFileSync(join(folder, "inbox", `prices-${day}.csv`), `valid_from,cents_per_litre\n2026-11-01,43.2\n${day},44.1\n`);
["2026-11-22", "2026-11-29"].forEach((of, nth) => writeOddFiles(join(folder, "inbox"), of, whole, nth));
writeFileSync(
  join(folder, "expected.json"),
  JSON.stringify({
    day,
    pickups: depots.reduce((sum, d) => sum + d.lines - d.broken, 0),
    litres: Number(litres.toFixed(1)),
  }) + "\n",
);
console.log(
  `Larkmoor Creamery: ${depots.reduce((sum, d) => sum + d.lines, 0).toLocaleString("en")} pickup lines from ${depots.length} depots for ${day}`,
);

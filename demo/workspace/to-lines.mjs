// A list as JSON comes in, a file with one line for each goes out. usage: to-lines.mjs FILE < JSON
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname } from "node:path";

const items = JSON.parse(readFileSync(0, "utf8"));
mkdirSync(dirname(process.argv[2]), { recursive: true });
writeFileSync(process.argv[2], items.map((item) => JSON.stringify(item) + "\n").join(""));
console.log(JSON.stringify({ lines: items.length }));

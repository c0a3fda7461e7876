import { readFileSync } from "node:fs";

const { litres, tanker } = JSON.parse(readFileSync(0, "utf8"));
console.error(`${litres.length} pickups`);
console.log(JSON.stringify({ tankers: Math.ceil(litres.reduce((a, b) => a + b) / tanker) }));

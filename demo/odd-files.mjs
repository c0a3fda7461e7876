// What comes to Larkmoor Creamery in forms of its own: Windows-1252 with decimal commas, a packed list of fixed width,
// and the register of farms.
import { writeFileSync, mkdirSync } from "node:fs";
import { join } from "node:path";
import { crc32, deflateRawSync } from "node:zlib";

const places = ["Süderhof", "Brækmoor", "Pré Salé", "Ållund", "Königsweide", "La Crête", "Ñandúfeld", "Østerby"];
const two = (n) => String(n).padStart(2, "0");
const farm = (n) => `farm-${String(n).padStart(3, "0")}`;

/** A zip archive with one file. */
function zipped(name, text) {
  const [data, file] = [Buffer.from(text), Buffer.from(name)];
  const packed = deflateRawSync(data);
  const about = Buffer.alloc(26);
  about.writeUInt16LE(20, 0);
  about.writeUInt16LE(8, 4);
  about.writeUInt16LE(0x5b76, 8);
  about.writeUInt32LE(crc32(data), 10);
  about.writeUInt32LE(packed.length, 14);
  about.writeUInt32LE(data.length, 18);
  about.writeUInt16LE(file.length, 22);
  const local = Buffer.concat([Buffer.from("PK\x03\x04"), about, file, packed]);
  const central = Buffer.concat([Buffer.from("PK\x01\x02\x14\x00"), about, Buffer.alloc(14), file]);
  const end = Buffer.alloc(22);
  end.write("PK\x05\x06");
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(local.length, 16);
  return Buffer.concat([local, central, end]);
}

/** Writes the files of a day; on the second of two days some farms have changed, and one is new. */
export function writeOddFiles(inbox, day, whole, nth = 0) {
  const [year, month, date] = day.split("-");
  mkdirSync(join(inbox, "west"), { recursive: true });
  const weights = [];
  for (let n = 1; n <= 40 + nth; n++) {
    const litres = whole(5000, 28000) / 10;
    const [thousands, rest] = [Math.floor(litres / 1000), (litres % 1000).toFixed(1).replace(".", ",")];
    const written = thousands > 0 ? `${thousands}.${rest.padStart(5, "0")}` : rest;
    weights.push(
      `${farm(n)};${places[n % places.length]};${date}.${month}.${year} ${two(whole(3, 20))}:${two(whole(0, 59))};${n % 17 === 0 ? "-" : written}`,
    );
  }
  writeFileSync(join(inbox, "west", `weights-${day}.csv`), Buffer.from(weights.join("\r\n") + "\r\n", "latin1"));
  const grades = ["A+", "A", "B", "organic"]
    .map(
      (grade, i) =>
        `${grade.padEnd(8)}${(year + month + "01").padEnd(12)}${(47.25 - 2.5 * i).toFixed(2).padStart(7)}\n`,
    )
    .join("");
  writeFileSync(join(inbox, `price-office-${day}.zip`), zipped(`prices-${day}.txt`, grades));
  const farms = ["farm_id,name,keeper,cows"];
  for (let n = 1; n <= 180 + nth; n++) {
    const moved = nth > 0 && n % 30 === 0;
    farms.push(`${farm(n)},${places[n % places.length]} ${n},keeper ${moved ? n + 500 : n},${20 + ((n * 7) % 90)}`);
  }
  writeFileSync(join(inbox, `farms-${day}.csv`), farms.join("\n") + "\n");
}

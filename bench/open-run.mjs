// Prints how long the run 1 of a service takes to open.
import { createRequire } from "node:module";
const { chromium } = createRequire(new URL("../console/package.json", import.meta.url))("playwright-core");

const service = process.argv[2].replace(/\/$/, "");
const seconds = (from) => ((performance.now() - from) / 1000).toFixed(2);
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox"],
});
const open = async (what) => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const from = performance.now();
  await page.goto(`${service}/runs/1`);
  await page.locator("[data-step='all']").waitFor();
  console.log(`in the console, until the drawing is there: ${seconds(from)} s (${what})`);
  await page.close();
};
// A page of the console was open before: its program is there.
const other = await browser.newPage();
await other.goto(`${service}/chains`);
await other.locator("h1").first().waitFor();
await open("nobody has looked at the run since the service started");
await open("once more");
const from = performance.now();
const run = await (await fetch(`${service}/api/runs/1`)).json();
console.log(`by the API: ${seconds(from)} s; decision ${run.seq}, ${run.state}`);
await browser.close();

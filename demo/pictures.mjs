// Takes the pictures of the console's pages. usage: node pictures.mjs <address> failed|paused|access|nodes|data|resumed
import { chromium } from "../console/node_modules/playwright-core/index.mjs";

const [address, part] = process.argv.slice(2);
const out = "docs/screenshots";
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});

async function page(name, path, sign, dark = false, act = async () => {}) {
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    colorScheme: dark ? "dark" : "light",
    // The certificate of demo/access.sh is made on the spot.
    ignoreHTTPSErrors: true,
  });
  await page.goto(address + path);
  await page.locator(sign).first().waitFor();
  await act(page);
  await page.waitForTimeout(700);
  await page.screenshot({ path: `${out}/${name}.png` });
  await page.close();
}

if (part === "failed") {
  await page("console-run-failed", "/runs/1?step=depots%5B2%5D%2Fload", "[data-testid=why]");
  await page("console-resume", "/runs/1", ".step", false, async (p) => {
    await p.getByRole("button", { name: "Resume…" }).click();
    await p.getByLabel("Broken lines a depot may have").fill("100");
  });
} else if (part === "access") {
  await page("console-access", "/access", ".signin", false, async (p) => {
    await p.getByRole("textbox", { name: "Name" }).fill("ann");
    await p.getByRole("textbox", { name: "Password" }).fill("cows give milk daily");
    await p.getByRole("button", { name: "Sign in" }).click();
    await p.locator("table.dense").waitFor();
  });
} else if (part === "data") {
  await page("console-data", "/data?name=warehouse%3Apickups", ".flowplace");
} else if (part === "nodes") {
  await page("console-nodes", "/nodes", "table.nodes");
} else if (part === "paused") {
  await page("console-run-paused", "/runs/5?step=book", ".notice");
} else {
  await page("console-chains", "/chains", "table.dense");
  await page("console-chain", "/chains/milk-intake", ".step", true);
  await page("console-rehearsal", "/chains/milk-intake/design", ".step", false, async (p) => {
    await p.getByRole("button", { name: "Rehearse" }).click();
    await p.getByText("It ends").waitFor();
    await p.locator("[data-step='depots/load'] .title").click();
    await p.locator("[data-step='depots/load'] .flip").click();
    await p.waitForTimeout(500);
    await p.locator("[data-gate='depots-tell_office'] button").hover();
  });
  await page("console-designer", "/chains/milk-intake/design", ".step", false, async (p) => {
    await p.getByLabel("Show values of expressions with the data of").selectOption("1");
    await p.locator("[data-gate='depots-price'] button").click();
    await p.getByRole("button", { name: "Build", exact: true }).click();
  });
  await page("console-connections", "/connections", "table.dense", false, async (p) => {
    for (const name of ["lab", "office-mail", "price-office"])
      await p.getByRole("button", { name: `Test ${name}` }).click();
    await p.waitForTimeout(2000);
  });
  await page("console-files", "/files/edit?path=connections.yaml&entry=lab", ".entry", false, async (p) => {
    await p.getByRole("button", { name: "Test", exact: true }).click();
    await p.getByText("works:").waitFor();
    await p.evaluate(() => document.querySelector("main").scrollTo(0, 0));
  });
  await page("console-runs", "/runs", "table.dense");
  await page("console-triggers", "/triggers?name=late-pickups", ".fires");
  await page("console-home", "/", ".weekchart");
  await page("console-history", "/chains/milk-intake/history?step=depots%2Fload", ".charts canvas");
  await page("console-difference", "/", ".weekchart", false, async (p) => {
    await p.getByRole("link", { name: "what was different?" }).first().click();
    await p.locator(".parts").waitFor();
  });
}
await browser.close();

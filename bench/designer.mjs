// How quick the designer is with 100, 300 and 1,000 steps: in Debian's headless chromium, against the service on
// loopback. "opens" is from the click in the list of chains until the drawing is there, with the editor still to be
// loaded. Prints times and frame rates; the floor is an empty page that redraws for the same time on the same machine.
//   node bench/designer.mjs [sizes…]
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "../console/node_modules/playwright-core/index.mjs";

const sizes = process.argv.slice(2).map(Number).filter(Boolean);
if (sizes.length === 0) sizes.push(100, 300, 1000);
const folder = mkdtempSync(join(tmpdir(), "gatechain-bench-"));
const program = new URL("../artifacts/bin/GateChain.Cli/release/gatechain", import.meta.url).pathname;
const service = spawn(
  program,
  ["serve", "--listen", "http://127.0.0.1:0", "--data", join(folder, "data"), "--work", folder],
  { stdio: ["ignore", "pipe", "ignore"] },
);
const address = await new Promise((done) =>
  service.stdout.on(
    "data",
    (d) => /listens at (\S+)/.exec(String(d)) && done(/listens at (\S+)/.exec(String(d))[1].replace(/\/$/, "")),
  ),
);

/** Steps in layers, half again as many gates as steps. */
function chain(n) {
  let text = `chain: big-${n}\ntitle: ${n} steps\nsteps:\n`;
  for (let i = 0; i < n; i++)
    text += `  s${i}:\n    kind: command\n    title: Step number ${i}\n    set:\n      run: [echo, "\${run.id} ${i}"]\n`;
  text += "gates:\n";
  let gates = 0;
  for (let i = 1; i < n; i++, gates++) text += `  - { from: s${Math.max(0, i - 1 - (i % 7))}, to: s${i} }\n`;
  for (let i = 0; gates < n * 1.5 && i < n - 20; i += 2, gates++)
    text += `  - { from: s${i}, to: s${i + 11 + (i % 5)}, on: completion }\n`;
  return text;
}

const put = (name, source) =>
  fetch(`${address}/api/chains/${name}/draft`, {
    method: "PUT",
    headers: { "If-Match": '"0"', "Content-Type": "application/json" },
    body: JSON.stringify({ source, files: null }),
  });
const median = (numbers) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? NaN;

/** Frames per second while something goes on; the slowest one in a hundred too. */
const frames = (page, ms) =>
  page.evaluate(
    (length) =>
      new Promise((done) => {
        const gaps = [];
        let last = performance.now();
        const end = last + length;
        const tick = (now) => {
          gaps.push(now - last);
          last = now;
          if (now < end) requestAnimationFrame(tick);
          else done(gaps.length / (gaps.reduce((a, b) => a + b, 0) / 1000));
        };
        requestAnimationFrame(tick);
      }),
    ms,
  );

const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic"],
});
try {
  const blank = await browser.newPage();
  const floor = await frames(blank, 1000);
  console.log(`empty page redraws at ${floor.toFixed(0)} fps`);
  console.log(
    "steps | opens ms | pan fps | zoom fps | keystroke ms (median, most of 20) | edit on the canvas ms | check ms | expression ms",
  );
  for (const n of sizes) {
    await put(`big-${n}`, chain(n));
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(`${address}/chains`);
    await page.locator("table.dense").waitFor();
    const opening = Date.now();
    await page.locator(`a[href="/chains/big-${n}/design"]`).first().click();
    await page.locator(".react-flow__node, .fardrawing[data-drawn]").first().waitFor({ timeout: 60_000 });
    const opens = Date.now() - opening;
    await page.waitForTimeout(1500);
    const pane = await page.locator(".designcanvas").boundingBox();
    const centre = { x: pane.x + pane.width / 2, y: pane.y + pane.height - 30 };

    const zoom = async (times, delta) => {
      await page.mouse.move(centre.x, pane.y + pane.height / 2);
      const counting = frames(page, 1200);
      for (let i = 0; i < times; i++) {
        // With Ctrl the wheel zooms; without, it pans.
        await page.keyboard.down("Control");
        await page.mouse.wheel(0, delta);
        await page.keyboard.up("Control");
        await page.waitForTimeout(16);
      }
      return counting;
    };
    const zoomFps = await zoom(45, -60);
    const counting = frames(page, 1400);
    await page.mouse.move(centre.x, pane.y + 20);
    await page.mouse.down();
    for (let i = 0; i < 60; i++) {
      await page.mouse.move(centre.x + Math.sin(i / 6) * 200, pane.y + 60 + Math.cos(i / 6) * 40);
      await page.waitForTimeout(12);
    }
    await page.mouse.up();
    const panFps = await counting;

    await page.locator(".designcanvas").focus();
    await page.keyboard.press("Control+f");
    await page.keyboard.type("s50");
    await page.keyboard.press("Enter");
    const title = page.locator(".inspector").getByLabel("Title", { exact: true });
    await title.click();
    await page.evaluate(() => {
      window.strokes = [];
      addEventListener(
        "keydown",
        () => {
          const at = performance.now();
          requestAnimationFrame(() => setTimeout(() => window.strokes.push(performance.now() - at)));
        },
        true,
      );
    });
    for (const c of "a quick typed title.") {
      await page.keyboard.type(c);
      await page.waitForTimeout(60);
    }
    const strokes = await page.evaluate(() => window.strokes);
    await page.waitForTimeout(1500);

    const gates = await page.locator(".savedstate").textContent();
    const edit = await page.evaluate(async () => {
      const canvas = document.querySelector(".designcanvas");
      canvas.focus();
      const at = performance.now();
      canvas.dispatchEvent(new KeyboardEvent("keydown", { key: "d", bubbles: true }));
      await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
      return performance.now() - at;
    });
    const timed = async (path, body) => {
      const all = [];
      for (let i = 0; i < 7; i++) {
        const at = performance.now();
        await (
          await fetch(`${address}${path}`, {
            method: "POST",
            headers: { "Content-Type": "application/json" },
            body: JSON.stringify(body(i)),
          })
        ).text();
        all.push(performance.now() - at);
      }
      return median(all);
    };
    // Each time another text, so that nothing is remembered; the expression is of a text that is.
    const check = await timed("/api/design/check", (i) => ({ chain: `big-${n}`, source: `${chain(n)}# ${i}\n` }));
    const expression = await timed("/api/design/expression", () => ({
      chain: `big-${n}`,
      source: chain(n),
      step: "s50",
      place: "setting",
      scope: null,
      from: null,
      text: "steps.s1.",
      cursor: 9,
      run: null,
    }));
    console.log(
      [
        n,
        opens,
        panFps.toFixed(0),
        zoomFps.toFixed(0),
        `${median(strokes).toFixed(0)}, ${Math.max(...strokes).toFixed(0)}`,
        edit.toFixed(0),
        check.toFixed(0),
        expression.toFixed(1),
      ].join(" | "),
      gates === "✓ saved" ? "" : `(${gates})`,
    );
    await page.context().close();
  }
} finally {
  await browser.close();
  service.kill();
  await new Promise((done) => service.on("exit", done));
  rmSync(folder, { recursive: true, force: true });
}

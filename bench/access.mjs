// Measures requests one after the other on one kept connection each; the median of each thousand, and of those.
import http from "node:http";
const [open, closed, link] = process.argv.slice(2);
const password = "cows give milk daily";

function asker(base, headers) {
  const agent = new http.Agent({ keepAlive: true, maxSockets: 1 });
  return (path, method = "GET", body) =>
    new Promise((resolve, reject) => {
      const request = http.request(
        new URL(path, base),
        { agent, method, headers: { ...headers, "content-type": "application/json" } },
        (response) => {
          let text = "";
          response.on("data", (part) => (text += part));
          response.on("end", () => resolve({ status: response.statusCode, headers: response.headers, text }));
        },
      );
      request.on("error", reject);
      request.end(body === undefined ? undefined : JSON.stringify(body));
    });
}

const must = (answer) => {
  if (answer.status >= 300) throw new Error(`${answer.status} ${answer.text}`);
  return answer;
};
const stranger = asker(closed, { "x-gatechain": "active" });
must(await stranger("/api/links/password", "POST", { link, password }));
const cookie = must(await stranger("/api/session", "POST", { name: "ann", password })).headers["set-cookie"][0].split(
  ";",
)[0];
const ann = asker(closed, { "x-gatechain": "active", cookie });
const token = JSON.parse(must(await ann("/api/me/tokens", "POST", { name: "bench", roles: ["viewer"] })).text).token;
must(await ann("/api/people", "POST", { name: "bea", roles: ["viewer:none", "viewer:other", "operator:other"] }));
const ofBea = JSON.parse(
  must(await ann("/api/tokens", "POST", { owner: "bea", name: "bench", roles: ["viewer:other"] })).text,
).token;

const who = {
  "without accounts": asker(open, {}),
  "by a token": asker(closed, { authorization: `Bearer ${token}` }),
  "by a session": ann,
  "by a token for a folder": asker(closed, { authorization: `Bearer ${ofBea}` }),
};
const median = (numbers) => numbers.sort((a, b) => a - b)[numbers.length >> 1];
// One that costs little itself, so that what is added shows.
const path = "/api/connections/types";
const rounds = Object.fromEntries(Object.keys(who).map((name) => [name, []]));
for (let round = 0; round < 9; round++) {
  for (const [name, ask] of Object.entries(who)) {
    const took = [];
    for (let i = 0; i < 400; i++) {
      const begin = process.hrtime.bigint();
      must(await ask(path));
      took.push(Number(process.hrtime.bigint() - begin) / 1e6);
    }
    // The first two rounds warm it up.
    if (round > 1) rounds[name].push(median(took));
    await new Promise((r) => setTimeout(r, 400));
  }
}
const floor = median(rounds["without accounts"]);
for (const [name, medians] of Object.entries(rounds)) {
  const m = median(medians);
  console.log(
    `${name.padEnd(26)} ${m.toFixed(3)} ms a request [${Math.min(...medians).toFixed(3)} to ${Math.max(...medians).toFixed(3)}]${name === "without accounts" ? "" : `, ${(m - floor >= 0 ? "+" : "") + (m - floor).toFixed(3)} ms`}`,
  );
}

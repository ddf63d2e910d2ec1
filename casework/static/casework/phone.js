// The phone's page: a chosen photograph is sent at once, in pieces. What breaks off goes on where it was, also after a
// while without a network; nothing arrives twice. The page itself stays as it is.

const PIECE = 256 * 1024, AGAIN_MS = 3000, LATEST_MS = 30000;
const form = document.querySelector("[data-phone-form]");
const list = document.querySelector(".phone-going");
const offline = document.querySelector("[data-offline]");
const pause = (ms) => new Promise((go) => { setTimeout(go, ms); window.addEventListener("online", go, { once: true }); });

function newToken() {
  // randomUUID is there on secure pages only; a counter's own network may have none.
  if (crypto.randomUUID) return crypto.randomUUID();
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 15) | 64; bytes[8] = (bytes[8] & 63) | 128;
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}

async function ask(address, body) {
  const headers = { "X-CSRFToken": form.querySelector("[name=csrfmiddlewaretoken]").value };
  if (body) headers["Content-Type"] = "application/octet-stream";
  const answer = await fetch(address, { method: body ? "POST" : "GET", headers, body });
  if (answer.status >= 500 || answer.status === 429) throw new Error("busy");
  return answer.json();
}

async function send(file, show) {
  const address = form.dataset.parts.replace("00000000-0000-0000-0000-000000000000", newToken());
  let have = 0, wait = AGAIN_MS, sure = true;
  for (;;) {
    try {
      if (!sure) have = (await ask(address)).have ?? 0;
      show(`${Math.round((100 * have) / file.size)} %`);
      const query = new URLSearchParams({ at: have, whole: file.size, name: file.name });
      const told = await ask(`${address}?${query}`, file.slice(have, have + PIECE));
      offline.hidden = true;
      if (told.problems?.length) return told.problems;
      if (told.done) return [];
      have = told.have; sure = true; wait = AGAIN_MS;
    } catch {
      offline.hidden = false; sure = false;
      show("waits for the network");
      await pause(wait);
      wait = Math.min(LATEST_MS, wait * 2);
    }
  }
}

async function refresh() {
  try {
    const page = new DOMParser().parseFromString(await (await fetch(location.pathname)).text(), "text/html");
    const fresh = page.getElementById("wanted");
    if (fresh) document.getElementById("wanted").replaceWith(fresh);
  } catch { /* no network: what is still wanted stays as it was told last */ }
}

const waiting = [];
let busy = false;
async function goOn() {
  if (busy) return;
  busy = true;
  for (let next = waiting.shift(); next; next = waiting.shift()) {
    const [file, item] = next;
    const problems = await send(file, (words) => { item.textContent = `${file.name}: ${words}`; });
    await refresh();
    item.textContent = problems.length ? problems.join(" ") : `${file.name}: Arrived. Take the next one, or look at the counter’s screen.`;
    item.className = problems.length ? "problem" : "caution";
  }
  busy = false;
  // Whether it is good enough is known once it was read.
  for (const ms of [4000, 10000, 20000]) setTimeout(refresh, ms);
}

form?.querySelectorAll("input[type=file]").forEach((input) => input.addEventListener("change", () => {
  for (const file of input.files) {
    const item = document.createElement("li");
    item.textContent = `${file.name}: waiting`;
    list.append(item);
    waiting.push([file, item]);
  }
  input.value = "";
  goOn();
}));
window.addEventListener("beforeunload", (event) => { if (busy) event.preventDefault(); });

// The packing table: ticks by key, what a thing is like, and the sheet that is sent. What it means is judged elsewhere.

const STATES = { "": "not looked at", there: "there", more: "there", none: "not there" };
let form = null;

export function setUpPacking() {
  form = document.querySelector("form.packing");
  if (!form || form.dataset.ready) return;
  form.dataset.ready = "yes";
  form.addEventListener("click", onClick);
  items().forEach(paint);
  keep();
}

const items = () => [...form.querySelectorAll(".item")];
const countOf = (item) => (item.dataset.count === "" ? null : Number(item.dataset.count));
const wantedOf = (item) => Number(item.dataset.wanted);

// Not looked at, as it should be, as it should not be, and round again.
function tick(item) {
  const wanted = wantedOf(item), count = countOf(item);
  const full = Math.max(1, wanted), order = wanted ? [null, full, 0] : [null, 0, full];
  const at = order.indexOf(count);
  setCount(item, order[(at + 1) % order.length]);
}

function setCount(item, count) {
  item.dataset.count = count ?? "";
  paint(item);
  keep();
}

function paint(item) {
  const count = countOf(item), wanted = wantedOf(item);
  const state = count === null ? "" : count === 0 ? "none" : count === wanted || !wanted ? "there" : "more";
  item.dataset.state = state;
  item.querySelector(".state").textContent = STATES[state];
  item.querySelector("output").textContent = count === null ? "–" : `${count} of ${wanted}`;
}

// One way at a time in which it could be another: the first attribute's other choices, then the next one's.
function alter(item) {
  if (!countOf(item)) setCount(item, Math.max(1, wantedOf(item)));
  const likes = [...item.querySelectorAll(".like")];
  const ways = likes.flatMap((like) => choices(like).filter((b) => b.dataset.choice !== like.dataset.expected));
  if (!ways.length) return;
  const at = ways.findIndex((button) => button.getAttribute("aria-pressed") === "true");
  likes.forEach((like) => choose(like, choices(like).find((b) => b.dataset.choice === like.dataset.expected)));
  if (at + 1 < ways.length) choose(ways[at + 1].closest(".like"), ways[at + 1]);
  keep();
}

const choices = (like) => [...like.querySelectorAll("[data-choice]")];

function choose(like, chosen) {
  choices(like).forEach((button) => button.setAttribute("aria-pressed", String(button === chosen)));
}

function keep() {
  const sheet = {};
  for (const item of items()) {
    const count = countOf(item);
    if (count === null) continue;
    const seen = { count };
    if (count) item.querySelectorAll(".like").forEach((like) => { seen[like.dataset.attribute] = like.querySelector('[aria-pressed="true"]')?.dataset.choice ?? like.dataset.expected; });
    sheet[item.dataset.item] = seen;
  }
  form.querySelector("[name=packing]").value = JSON.stringify(sheet);
}

function onClick(event) {
  const item = event.target.closest(".item");
  if (!item) return;
  const choice = event.target.closest("[data-choice]");
  if (choice) { choose(choice.closest(".like"), choice); if (!countOf(item)) setCount(item, Math.max(1, wantedOf(item))); keep(); return; }
  if (event.target.closest("[data-more]")) setCount(item, (countOf(item) ?? 0) + 1);
  else if (event.target.closest("[data-less]")) setCount(item, Math.max(0, (countOf(item) ?? 0) - 1));
  else if (event.target.closest(".token")) tick(item);
  // After the mouse, Enter keeps what is ticked instead of pressing the same button again.
  if (event.detail) event.target.closest("button")?.blur();
}

export function packingKey(event, key) {
  if (!form?.isConnected) return false;
  if (key === " ") { items().filter((item) => countOf(item) === null).forEach((item) => setCount(item, wantedOf(item))); return true; }
  const code = event.code.replace(/^(Key|Digit)/, "").toLowerCase();
  const item = event.shiftKey && form.querySelector(`[data-place="${code}"]`)?.closest(".item");
  if (item) { alter(item); return true; }
  return false;
}

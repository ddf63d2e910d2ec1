// One photograph, large: zoom, pan, and points put for a scale. The points are sent; nothing is computed here.
import { make, pointAt, pointList, showBox, unitOf } from "./svg.js";

const TILE = "Click the middle of the grey tile.";
const HINTS = {
  1: "Click a part that is plain white or grey, not glaring, on the shoe or next to it.",
  2: "Click the two ends of a known length. Backspace takes the last one back.",
  4: "Click the four corners: top left, top right, bottom right, bottom left. Backspace takes the last one back.",
};
// Points drawn without end: a path or a region for a new check.
const DRAWING = Infinity;
let desk = null; // { svg, size, box, wanted, points, form }

export function setUpDesk() {
  const svg = document.querySelector(".pic.desk");
  if (!svg || svg.dataset.ready) return;
  svg.dataset.ready = "yes";
  const size = svg.dataset.size.split(" ").map(Number);
  desk = { svg, size, box: [0, 0, ...size], wanted: 0, points: [] };
  document.querySelectorAll("[data-put]").forEach((button) => {
    button.addEventListener("click", () => start(Number(button.dataset.put), button.form));
  });
  const wheel = (event) => { event.preventDefault(); zoom(event.deltaY < 0 ? 0.8 : 1.25, at(event)); };
  svg.addEventListener("wheel", wheel, { passive: false });
  if ("drawing" in svg.dataset) setUpDrawing();
  let from = null, held = -1;
  svg.addEventListener("pointerdown", (event) => {
    // A dot is moved, the ground is dragged or gets a dot.
    held = desk.wanted === DRAWING ? [...svg.querySelectorAll(".put circle")].indexOf(event.target) : -1;
    from = { x: event.clientX, y: event.clientY, box: desk.box, moved: false };
    svg.setPointerCapture(event.pointerId);
  });
  svg.addEventListener("pointermove", (event) => {
    if (!from) return;
    const dx = event.clientX - from.x, dy = event.clientY - from.y;
    if (Math.hypot(dx, dy) > 4) from.moved = true;
    if (from.moved && held >= 0) { desk.points[held] = at(event); paint(); return; }
    if (!from.moved) return;
    const unit = unitOf(svg);
    desk.box = [from.box[0] - dx * unit, from.box[1] - dy * unit, from.box[2], from.box[3]];
    show();
  });
  svg.addEventListener("pointerup", (event) => { if (from && !from.moved && desk.wanted && held < 0) put(at(event)); from = null; });
  new ResizeObserver(show).observe(svg);
  if (svg.dataset.focus) goTo(svg.dataset.focus.split(" ").map((pair) => pair.split(",").map(Number)));
  else show();
}

const at = (event) => pointAt(event, desk.svg);

function zoom(factor, [x, y]) {
  const [left, top, width, height] = desk.box;
  desk.box = [x - (x - left) * factor, y - (y - top) * factor, width * factor, height * factor];
  show();
}

function show() { showBox(desk.svg, desk.box); }

function start(wanted, form = null) {
  desk.wanted = wanted;
  desk.form = form;
  desk.points = [];
  const lengths = document.getElementById("lengths");
  if (wanted === 4 && !lengths.value) lengths.value = "85.60 × 53.98";
  paint();
}

function put(point) {
  if (desk.points.length >= desk.wanted) desk.points = [];
  if (desk.wanted === DRAWING) forget();
  desk.points.push(point);
  paint();
  if (desk.wanted === 1) { sendNeutral(); return; }
  if (desk.points.length === desk.wanted) document.getElementById("lengths").focus();
}

function paint() {
  const group = desk.svg.querySelector(".put");
  group.replaceChildren();
  const isRegion = chosen()?.hasAttribute("data-closed") && desk.points.length > 2;
  const closed = desk.wanted === DRAWING ? isRegion : desk.points.length === 4;
  group.append(make(closed ? "polygon" : "polyline", { points: pointList(desk.points) }));
  group.append(...desk.points.map(([x, y]) => make("circle", { cx: x, cy: y })));
  const field = document.querySelector(".put-form [name=points]");
  if (field) field.value = JSON.stringify(desk.points);
  const how = document.getElementById("how");
  if (how) { how.textContent = chosen()?.dataset.how ?? ""; return; }
  const hint = document.querySelector(".photo-large .tool-hint");
  hint.hidden = !desk.wanted;
  const asks = desk.form?.tile ? TILE : (HINTS[desk.wanted] ?? "");
  hint.textContent = desk.points.length === desk.wanted ? "Now write the length in mm and press Enter." : asks;
}

function sendNeutral() {
  desk.form.points.value = JSON.stringify(desk.points);
  desk.form.requestSubmit();
}

const chosen = () => document.getElementById("choice")?.selectedOptions[0];

// One measure at a time: its numbers are the list's, the usual one on top.
function pick(measure) {
  const list = document.getElementById("choice");
  desk.groups ??= [...list.querySelectorAll("optgroup")];
  list.replaceChildren(desk.groups.find((group) => group.dataset.of === measure));
  if (!list.selectedOptions.length) list.selectedIndex = 0;
  document.querySelectorAll("[data-measure]").forEach((button) => {
    button.setAttribute("aria-pressed", String(button.dataset.measure === measure));
  });
}

function choose(measure) { pick(measure); document.getElementById("choice").selectedIndex = 0; forget(); paint(); }

function setUpDrawing() {
  const form = document.getElementById("check-form");
  desk.wanted = DRAWING;
  desk.points = JSON.parse(form.points.value || "[]");
  form.querySelector("[data-try]").addEventListener("click", tryIt);
  form.querySelector("[data-clear]").addEventListener("click", startOver);
  document.getElementById("choice").addEventListener("change", () => { forget(); paint(); });
  document.querySelectorAll("[data-measure]").forEach((button) => {
    button.addEventListener("click", () => choose(button.dataset.measure));
  });
  if (document.querySelector("[data-measure]")) pick(chosen().parentElement.dataset.of);
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target?.id !== "tried") return;
    const marks = document.getElementById("tried-marks");
    if (marks) { desk.svg.querySelector(".tried-marks").replaceChildren(...marks.childNodes); goTo(desk.points); }
  });
  paint();
}

// What was measured, large enough to judge every mark.
function goTo(points) {
  const xs = points.map((p) => p[0]), ys = points.map((p) => p[1]);
  const left = Math.min(...xs), right = Math.max(...xs), top = Math.min(...ys), bottom = Math.max(...ys);
  const width = 1.6 * (right - left) + 40, height = 1.6 * (bottom - top) + 40;
  desk.box = [(left + right - width) / 2, (top + bottom - height) / 2, width, height];
  show();
}

function tryIt() { window.htmx.trigger("#check-form", "try"); }

function forget() {
  desk.svg.querySelector(".tried-marks")?.replaceChildren();
  document.getElementById("tried")?.replaceChildren();
}

function startOver() { desk.points = []; forget(); paint(); }

function drawingKey(event, key) {
  if (event.key === "Backspace") { desk.points.pop(); forget(); paint(); return true; }
  if (event.key === "Escape") { startOver(); return true; }
  if (event.key === "Enter") { tryIt(); return true; }
  const measure = /^[1-8]$/.test(key) && document.querySelectorAll("[data-measure]")[key - 1];
  if (measure) { measure.click(); return true; }
  return viewKey(key);
}

function viewKey(key) {
  if (key === "+" || key === "=" || key === "-") {
    const [x, y, w, h] = desk.box;
    zoom(key === "-" ? 1.25 : 0.8, [x + w / 2, y + h / 2]);
    return true;
  }
  if (key === "0") { desk.box = [0, 0, ...desk.size]; show(); return true; }
  return false;
}

export function deskKey(event, key) {
  if (!desk?.svg.isConnected) return false;
  if (desk.wanted === DRAWING) return drawingKey(event, key);
  if ((key === "1" || key === "2") && document.querySelector("[data-put]")) { start(key === "1" ? 2 : 4); return true; }
  const neutral = document.querySelectorAll("[data-neutral]")[{ 5: 0, 7: 1 }[key]];
  if (neutral) { start(1, neutral); return true; }
  if (event.key === "Backspace" && desk.wanted) { desk.points.pop(); paint(); return true; }
  if (event.key === "Escape" && desk.wanted) { desk.wanted = 0; desk.points = []; paint(); return true; }
  return viewKey(key);
}

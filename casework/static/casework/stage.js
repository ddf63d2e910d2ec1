// The twin stage: zoom and pan locked together, marks drawn to size, tools to put marks right.
// It draws and collects points; nothing that is judged is computed here.
import { Editor } from "./editor.js";
import { Gauge } from "./gauge.js";
import { Laid, MODES } from "./laid.js";
import { Lens, paintGrid } from "./lens.js";
import { showBox, unitOf } from "./svg.js";

const CLOSER = 1.25;
let stage = null; // { root, pics: [{svg, box, size}], view, editor }
const remembered = { key: "", view: null, stacked: null, swapped: false };

const boxOf = (text) => text.split(" ").map(Number);
const resting = () => ({ zoom: 1, dx: 0, dy: 0, whole: false });
// What zoom 1 shows: the checkpoint's surroundings, or the whole photograph.
const baseOf = ({ box, size }) => (stage.view.whole ? [0, 0, ...size] : box);

export function setUpStage() {
  const root = document.getElementById("stage");
  const bench = document.getElementById("bench");
  if (!root || !bench || root.dataset.ready) return;
  root.dataset.ready = "yes";
  const picOf = (svg) => ({ svg, box: boxOf(svg.dataset.box), size: boxOf(svg.dataset.size) });
  const pics = [...root.querySelectorAll(".pic")].map(picOf);
  const same = remembered.key === bench.dataset.key;
  stage = { root, pics, view: same && remembered.view ? remembered.view : resting(), editor: null, laid: null };
  remembered.key = bench.dataset.key;
  const first = pics[0];
  const wide = first && first.box[2] > 1.15 * first.box[3];
  root.classList.toggle("stacked", remembered.stacked ?? Boolean(wide));
  stage.editor = new Editor(root, bench.dataset.work);
  stage.laid = new Laid(root, bench.dataset.work);
  stage.gauge = new Gauge(root, bench.dataset.work);
  stage.lens = new Lens(root, pics);
  root.classList.toggle("swapped", remembered.swapped);
  pics.forEach(listen);
  root.querySelectorAll("[data-tool]").forEach((button) => {
    button.addEventListener("click", () => useTool(button.dataset.tool));
  });
  new ResizeObserver(show).observe(root);
  show();
}

// One view for both: shown centre = centre of the picture's own base, moved by shares of it.
function show() {
  if (!stage) return;
  remembered.view = stage.view;
  const { zoom, dx, dy } = stage.view;
  for (const pic of stage.pics) {
    const { svg } = pic, box = baseOf(pic);
    const width = box[2] / zoom, height = box[3] / zoom;
    const x = box[0] + box[2] / 2 + dx * box[2] - width / 2;
    const y = box[1] + box[3] / 2 + dy * box[3] - height / 2;
    const unit = showBox(svg, [x, y, width, height]);
    // Print is shown level on both sides; points put on it still land where they were put.
    svg.style.rotate = svg.dataset.turn && !stage.view.whole ? `${svg.dataset.turn}deg` : "";
    paintGrid(svg, unit);
  }
  stage.laid?.place();
}

function closer(factor) {
  stage.view = { ...stage.view, zoom: Math.min(40, Math.max(0.02, stage.view.zoom * factor)) };
  show();
}

function useTool(name) {
  if (!stage?.pics.length) return false;
  if (name === "closer") closer(CLOSER);
  else if (name === "further") closer(1 / CLOSER);
  else if (name === "reset") { stage.view = resting(); show(); }
  else if (name === "whole") { stage.view = { ...resting(), whole: true }; show(); }
  else if (name === "stack") { remembered.stacked = stage.root.classList.toggle("stacked"); show(); }
  else if (name === "lens") stage.lens.toggle();
  else if (name === "flip") flip();
  else if (name === "swap") { remembered.swapped = stage.root.classList.toggle("swapped"); show(); }
  else if (stage.gauge.toggle(name)) stage.root.focus?.();
  else if (Object.values(MODES).includes(name)) { stage.laid.toggle(name); show(); }
  else stage.editor.toggle(name);
  return true;
}

// The suspect mirrored, for a look at a left shoe beside a right one. It is said, and nothing is measured that way.
function flip() {
  const on = stage.root.classList.toggle("flipped");
  stage.root.querySelector('[data-tool="flip"]')?.classList.toggle("on", on);
  const tag = stage.root.querySelector(".suspect .tag strong");
  if (tag) tag.textContent = on ? "Suspect, mirrored" : "Suspect";
}

const TOOL_KEYS = {
  "+": "closer", "=": "closer", "-": "further", 0: "reset", f: "whole", s: "stack",
  z: "lens", y: "flip", x: "swap", t: "ticks", m: "marks",
};

export function stageKey(event, key) {
  if (!stage?.root.isConnected || !stage.pics.length) return false;
  if (stage.editor.key(event, key)) return true;
  if (stage.gauge.key(event, key)) return true;
  if (stage.laid.key(event, key)) { show(); return true; }
  if (key === "h") { stage.root.classList.add("bare-photo"); return true; }
  return key in TOOL_KEYS && useTool(TOOL_KEYS[key]);
}

export function letGo(key) {
  if (key === "h") stage?.root.classList.remove("bare-photo");
  stage?.laid?.letGo(key);
}

function listen(pic) {
  const { svg } = pic;
  const wheel = (event) => { event.preventDefault(); closer(event.deltaY < 0 ? 1.12 : 1 / 1.12); };
  svg.addEventListener("wheel", wheel, { passive: false });
  let from = null;
  svg.addEventListener("pointerdown", (event) => {
    if (stage.editor.takes(event, svg) || stage.gauge.takes(event, svg) || stage.laid.takes(event)) return;
    from = { x: event.clientX, y: event.clientY, view: stage.view };
    svg.setPointerCapture(event.pointerId);
    svg.classList.add("dragging");
  });
  svg.addEventListener("pointermove", (event) => {
    if (!from) return;
    const unit = unitOf(svg), box = baseOf(pic);
    const flipped = stage.root.classList.contains("flipped") && svg.closest(".suspect");
    const side = flipped || svg.closest(".mirrored") ? -1 : 1;
    const right = ((event.clientX - from.x) * unit) / box[2], down = ((event.clientY - from.y) * unit) / box[3];
    stage.view = { ...from.view, dx: from.view.dx - side * right, dy: from.view.dy - down };
    show();
  });
  const release = () => { from = null; svg.classList.remove("dragging"); };
  svg.addEventListener("pointerup", release);
  svg.addEventListener("pointercancel", release);
}

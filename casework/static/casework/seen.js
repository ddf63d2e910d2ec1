// A pin or a box on the suspect's photograph, while the form for what is on no list lies open.
import { make, pointAt } from "./svg.js";

const form = () => document.querySelector(".seen-form[open] form");
const photo = () => document.querySelector("figure.side.suspect svg.pic");
let from = null;

function draw(svg, points) {
  svg.querySelector(".seen-mark")?.remove();
  const [[x, y], other] = points;
  const size = svg.viewBox.baseVal.width / 60;
  const where = other
    ? { x: Math.min(x, other[0]), y: Math.min(y, other[1]), width: Math.abs(other[0] - x), height: Math.abs(other[1] - y) }
    : { cx: x, cy: y, r: size };
  svg.append(make("g", { class: "seen-mark" }, make(other ? "rect" : "circle", where)));
}

document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.pic");
  if (!form() || !svg || svg !== photo() || event.button !== 0) return;
  from = pointAt(event, svg);
  event.stopPropagation();
  event.preventDefault();
}, true);

document.addEventListener("pointerup", (event) => {
  const svg = photo();
  if (!from || !form() || !svg) return;
  const to = pointAt(event, svg);
  const far = Math.hypot(to[0] - from[0], to[1] - from[1]) > svg.viewBox.baseVal.width / 80;
  const points = far ? [from, to] : [from];
  from = null;
  form().querySelector("[name=points]").value = JSON.stringify(points);
  const hint = form().querySelector("[data-seen-hint]");
  if (hint) hint.textContent = points.length > 1 ? "Boxed. Drag again to move it." : "Pinned. Click again to move it.";
  draw(svg, points);
  event.stopPropagation();
}, true);

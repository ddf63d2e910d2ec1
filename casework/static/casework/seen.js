// A pin or a box on the suspect's photograph, while the form for what is on no list lies open.
const form = () => document.querySelector(".seen-form[open] form");
const photo = () => document.querySelector("figure.side.suspect svg.pic");
let from = null;

const at = (event, svg) => {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return [Math.round(point.x * 10) / 10, Math.round(point.y * 10) / 10];
};

function draw(svg, points) {
  svg.querySelector(".seen-mark")?.remove();
  const group = document.createElementNS("http://www.w3.org/2000/svg", "g");
  group.setAttribute("class", "seen-mark");
  const [[x, y], other] = points;
  const shape = document.createElementNS("http://www.w3.org/2000/svg", other ? "rect" : "circle");
  const size = svg.viewBox.baseVal.width / 60;
  const where = other
    ? { x: Math.min(x, other[0]), y: Math.min(y, other[1]), width: Math.abs(other[0] - x), height: Math.abs(other[1] - y) }
    : { cx: x, cy: y, r: size };
  for (const [name, value] of Object.entries(where)) shape.setAttribute(name, value);
  group.append(shape);
  svg.append(group);
}

document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.pic");
  if (!form() || !svg || svg !== photo() || event.button !== 0) return;
  from = at(event, svg);
  event.stopPropagation();
  event.preventDefault();
}, true);

document.addEventListener("pointerup", (event) => {
  const svg = photo();
  if (!from || !form() || !svg) return;
  const to = at(event, svg);
  const far = Math.hypot(to[0] - from[0], to[1] - from[1]) > svg.viewBox.baseVal.width / 80;
  const points = far ? [from, to] : [from];
  from = null;
  form().querySelector("[name=points]").value = JSON.stringify(points);
  const hint = form().querySelector("[data-seen-hint]");
  if (hint) hint.textContent = points.length > 1 ? "Boxed. Drag again to move it." : "Pinned. Click again to move it.";
  draw(svg, points);
  event.stopPropagation();
}, true);

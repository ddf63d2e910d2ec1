// SVG: elements made, and where things lie in a picture's own pixels. The only file that converts coordinates.
const NAMESPACE = "http://www.w3.org/2000/svg";

export function setAll(element, attributes) {
  for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, value);
  return element;
}

export function make(name, attributes = {}, ...children) {
  const element = setAll(document.createElementNS(NAMESPACE, name), attributes);
  element.append(...children);
  return element;
}

export const pointList = (points) => points.map((point) => point.join(",")).join(" ");

// A photograph once more, to lay over or to look at through a lens.
export function copyImage(from) {
  const names = ["href", "width", "height", "preserveAspectRatio"].filter((name) => from.hasAttribute(name));
  return make("image", Object.fromEntries(names.map((name) => [name, from.getAttribute(name)])));
}

export const matrixOf = (text) => new DOMMatrix(text.split(" ").map(Number));
export const through = (matrix, [x, y]) => { const moved = new DOMPoint(x, y).matrixTransform(matrix); return [moved.x, moved.y]; };

// From the screen to the picture; null while it is not shown.
export function inPicture(svg, x, y) {
  const onto = svg.getScreenCTM();
  return onto && through(onto.inverse(), [x, y]);
}

export const onScreen = (svg, point) => through(svg.getScreenCTM(), point);
export const exactly = (event, svg) => inPicture(svg, event.clientX, event.clientY);
// To a tenth of a pixel: a hand points no finer.
export const pointAt = (event, svg) => exactly(event, svg).map((c) => Math.round(c * 10) / 10);

// How many pixels of the picture a pixel of the screen shows.
export const unitOf = (svg) => Number(svg.style.getPropertyValue("--u")) || 1;

// Show that part of the picture: left, top, width, height.
export function showBox(svg, box) {
  const unit = Math.max(box[2] / Math.max(1, svg.clientWidth), box[3] / Math.max(1, svg.clientHeight));
  svg.setAttribute("viewBox", box.join(" "));
  svg.style.setProperty("--u", unit);
  svg.classList.toggle("pixelated", unit < 0.3);
  return unit;
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
export const arrow = (event) => ARROWS[event.key];

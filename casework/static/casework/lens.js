// A lens on both pictures at once, at the same place of the shoe; and the pixel grid at high zoom.

const SVG = "http://www.w3.org/2000/svg";
const SIDE = 230, STRONGER = 4;
let on = false; // stays from checkpoint to checkpoint

export class Lens {
  constructor(root, pics) {
    this.root = root;
    this.pics = pics;
    this.glasses = pics.map(({ svg }) => this.glass(svg));
    pics.forEach(({ svg }, n) => {
      svg.addEventListener("pointermove", (event) => on && this.look(n, event));
      svg.addEventListener("pointerleave", () => this.hide());
    });
    this.paint();
  }

  glass(svg) {
    const glass = document.createElementNS(SVG, "svg");
    glass.classList.add("lens");
    const from = svg.querySelector("image"), image = document.createElementNS(SVG, "image");
    for (const name of ["href", "width", "height", "preserveAspectRatio"]) if (from.hasAttribute(name)) image.setAttribute(name, from.getAttribute(name));
    glass.append(image);
    svg.parentElement.append(glass);
    return glass;
  }

  toggle() { on = !on; this.paint(); if (!on) this.hide(); return true; }

  paint() { this.root.querySelector('[data-tool="lens"]')?.classList.toggle("on", on); this.root.classList.toggle("lensing", on); }

  hide() { this.glasses.forEach((glass) => glass.classList.remove("shown")); }

  // Where a place of one picture lies on the other: through the alignment where there is one, else by shares of the view.
  across(n, point) {
    const laid = this.pics.find(({ svg }) => svg.dataset.onto)?.svg.dataset.onto;
    if (laid) {
      const onto = new DOMMatrix(laid.split(" ").map(Number));
      const moved = new DOMPoint(...point).matrixTransform(n === 1 ? onto : onto.inverse());
      return [moved.x, moved.y];
    }
    const [from, to] = [this.pics[n], this.pics[1 - n]].map(({ svg }) => svg.viewBox.baseVal);
    return [to.x + ((point[0] - from.x) / from.width) * to.width, to.y + ((point[1] - from.y) / from.height) * to.height];
  }

  look(n, event) {
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.pics[n].svg.getScreenCTM().inverse());
    const places = { [n]: [p.x, p.y] };
    if (this.pics.length > 1) places[1 - n] = this.across(n, [p.x, p.y]);
    this.pics.forEach(({ svg }, k) => {
      const glass = this.glasses[k], [x, y] = places[k];
      const span = (SIDE * (Number(svg.style.getPropertyValue("--u")) || 1)) / STRONGER;
      glass.setAttribute("viewBox", `${x - span / 2} ${y - span / 2} ${span} ${span}`);
      const where = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM()), frame = svg.parentElement.getBoundingClientRect();
      glass.style.left = `${where.x - frame.left - SIDE / 2}px`;
      glass.style.top = `${where.y - frame.top - SIDE / 2}px`;
      glass.classList.add("shown");
    });
  }
}

export function paintGrid(svg, unit) {
  svg.classList.toggle("pixelated", unit < 0.3);
  const grid = svg.querySelector(".pixel-grid");
  if (unit >= 0.11) { grid?.remove(); return; }
  const lines = grid ?? document.createElementNS(SVG, "path");
  const { x, y, width, height } = svg.viewBox.baseVal;
  let d = "";
  for (let c = Math.ceil(x) ; c < x + width; c += 1) d += `M${c} ${y}v${height}`;
  for (let r = Math.ceil(y); r < y + height; r += 1) d += `M${x} ${r}h${width}`;
  lines.setAttribute("d", d);
  if (!grid) { lines.classList.add("pixel-grid"); svg.querySelector("image").after(lines); }
}

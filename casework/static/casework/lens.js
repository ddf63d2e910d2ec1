// A lens on both pictures at once, at the same place of the shoe; and the pixel grid at high zoom.
import { copyImage, exactly, make, matrixOf, onScreen, through, unitOf } from "./svg.js";

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
    const glass = make("svg", { class: "lens" }, copyImage(svg.querySelector("image")));
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
      return through(n === 1 ? matrixOf(laid) : matrixOf(laid).inverse(), point);
    }
    const [from, to] = [this.pics[n], this.pics[1 - n]].map(({ svg }) => svg.viewBox.baseVal);
    return [to.x + ((point[0] - from.x) / from.width) * to.width, to.y + ((point[1] - from.y) / from.height) * to.height];
  }

  look(n, event) {
    const places = { [n]: exactly(event, this.pics[n].svg) };
    if (this.pics.length > 1) places[1 - n] = this.across(n, places[n]);
    this.pics.forEach(({ svg }, k) => {
      const glass = this.glasses[k], [x, y] = places[k];
      const span = (SIDE * unitOf(svg)) / STRONGER;
      glass.setAttribute("viewBox", `${x - span / 2} ${y - span / 2} ${span} ${span}`);
      const [left, top] = onScreen(svg, [x, y]), frame = svg.parentElement.getBoundingClientRect();
      glass.style.left = `${left - frame.left - SIDE / 2}px`;
      glass.style.top = `${top - frame.top - SIDE / 2}px`;
      glass.classList.add("shown");
    });
  }
}

export function paintGrid(svg, unit) {
  const grid = svg.querySelector(".pixel-grid");
  if (unit >= 0.11) { grid?.remove(); return; }
  const lines = grid ?? make("path");
  const { x, y, width, height } = svg.viewBox.baseVal;
  let d = "";
  for (let c = Math.ceil(x) ; c < x + width; c += 1) d += `M${c} ${y}v${height}`;
  for (let r = Math.ceil(y); r < y + height; r += 1) d += `M${x} ${r}h${width}`;
  lines.setAttribute("d", d);
  if (!grid) { lines.classList.add("pixel-grid"); svg.querySelector("image").after(lines); }
}

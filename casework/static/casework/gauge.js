// Measuring by pointing: the points are collected here, the numbers come from the server. Also landmarks for laying on.
import { arrow, exactly, make, pointList, unitOf } from "./svg.js";

const TOOLS = {
  caliper: { key: "c", wants: 2, words: "Two points of a distance." },
  angle: { key: "a", wants: 3, words: "Three points; the angle is at the middle one." },
  parallel: { key: "p", wants: 4, words: "Two points of one line, then two of the other." },
  meet: { key: "e", wants: 4, words: "Two points of the line to go on with, then two of the line it should meet." },
  circle: { key: "o", wants: 3, more: true, words: "Three or more points round the circle." },
  colour: { key: "q", wants: 1, both: true, words: "The same spot on both pictures; without cards, then the same neutral part on both. Two spots of one picture: click both there." },
  landmarks: { key: "l", wants: 3, both: true, more: true, words: "The same places on both pictures, three or more, in the same order." },
};
const BY_KEY = Object.fromEntries(Object.entries(TOOLS).map(([name, tool]) => [tool.key, name]));

export class Gauge {
  constructor(root, work) {
    this.root = root;
    this.work = work;
    this.sides = Object.fromEntries(["retail", "suspect"].map((side) => [side, root.querySelector(`.${side} .pic`)]));
    this.tool = "";
    this.readout = root.querySelector(".readout");
    this.readout?.querySelector("[data-pin]")?.addEventListener("click", () => this.keep());
    this.readout?.querySelector("input")?.addEventListener("keydown", (event) => { if (event.key === "Enter") this.keep(); });
    this.reset();
  }

  reset() {
    this.points = { retail: [], suspect: [] };
    this.drawn = [];
    this.result = "";
    this.cursor = null;
    this.paint();
  }

  toggle(name) {
    if (!(name in TOOLS) || !this.sides.suspect || !this.readout) return false;
    this.tool = this.tool === name ? "" : name;
    this.reset();
    return true;
  }

  // The side that single-picture tools measure on: the one that was clicked first.
  get side() { return this.points.retail.length && !this.points.suspect.length ? "retail" : this.points.suspect.length ? "suspect" : (this.cursor?.side ?? "suspect"); }

  key(event, key) {
    if (!this.tool) return key in BY_KEY && !event.repeat && !event.shiftKey && this.toggle(BY_KEY[key]);
    if (event.key === "Escape") return this.toggle(this.tool);
    if (event.key === "Backspace") { (this.points[this.last] ?? []).pop(); this.drawn = []; this.result = ""; this.paint(); return true; }
    if (event.key === "Tab") { this.place({ side: this.cursor?.side === "suspect" ? "retail" : "suspect" }); return true; }
    const step = arrow(event);
    if (step) { this.place({ step: step.map((s) => s * (event.shiftKey ? 1 : 12)) }); return true; }
    if (event.key === "Enter") { if (this.cursor && !this.result) this.put(this.cursor.side, this.cursor.at); else this.keep(); return true; }
    if (key in BY_KEY) return this.toggle(BY_KEY[key]);
    return false;
  }

  // The keyboard's cross: arrows move it by 12 pixels of the screen, with Shift by one.
  place({ side = this.cursor?.side ?? "suspect", step = [0, 0] }) {
    const svg = this.sides[side];
    if (!svg) return;
    const unit = unitOf(svg), box = svg.viewBox.baseVal;
    const at = this.cursor?.side === side ? this.cursor.at : [box.x + box.width / 2, box.y + box.height / 2];
    this.cursor = { side, at: [at[0] + step[0] * unit, at[1] + step[1] * unit] };
    this.result = "";
    this.paint();
  }

  takes(event, svg) {
    if (!this.tool || event.button !== 0) return false;
    const side = svg === this.sides.retail ? "retail" : "suspect";
    this.put(side, exactly(event, svg));
    return true;
  }

  put(side, at) {
    const tool = TOOLS[this.tool];
    const point = at.map((c) => Math.round(c * 10) / 10);
    if (!tool.both && side !== this.side) this.points = { retail: [], suspect: [] };
    const full = this.tool === "colour" ? 2 : tool.more ? Infinity : tool.wants;
    if (this.points[side].length >= full) this.points = { retail: [], suspect: [] };
    this.points[side].push(point);
    this.last = side;
    this.drawn = [];
    this.result = "";
    this.paint();
    if (this.ready()) this.ask();
  }

  ready() {
    const { retail, suspect } = this.points, tool = TOOLS[this.tool];
    if (this.tool === "landmarks") return false;
    if (this.tool === "colour") return (retail.length && retail.length === suspect.length) || Math.abs(retail.length - suspect.length) === 2;
    return this.points[this.side].length >= tool.wants;
  }

  values() {
    const side = this.side, other = side === "suspect" ? "retail" : "suspect";
    return { tool: this.tool, side, pixel: unitOf(this.sides[side]), points: JSON.stringify(this.points[side]), others: JSON.stringify(this.points[other]) };
  }

  async ask() {
    const body = new URLSearchParams(this.values());
    const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
    const answer = await fetch(`${this.work}gauge/`, { method: "POST", body, headers: { "X-CSRFToken": token } }).catch(() => null);
    const { words, problem, drawn } = answer ? await answer.json() : { problem: "No connection: nothing was measured. Place a point again." };
    this.result = words ?? "";
    this.problem = problem ?? "";
    this.drawn = drawn ?? [];
    this.paint();
  }

  // Enter once more: pin what was read, or lay the reference on by the landmarks.
  keep() {
    const words = this.readout.querySelector("input")?.value ?? "";
    const action = this.tool === "landmarks" ? "landmarks" : "pin";
    if (action === "pin" && !this.result) return;
    const values = this.values();
    if (action === "landmarks") Object.assign(values, { side: "suspect", points: JSON.stringify(this.points.suspect), others: JSON.stringify(this.points.retail) });
    window.htmx.ajax("POST", `${this.work}${action}/`, { target: "#bench", swap: "outerHTML", values: { ...values, words } });
  }

  paint() {
    if (!this.readout) return;
    this.root.classList.toggle("gauging", Boolean(this.tool));
    this.root.querySelectorAll("[data-tool]").forEach((b) => { if (b.dataset.tool in TOOLS) b.classList.toggle("on", b.dataset.tool === this.tool); });
    this.readout.hidden = !this.tool;
    for (const [side, svg] of Object.entries(this.sides)) if (svg) this.paintSide(side, svg);
    if (!this.tool) return;
    const { retail, suspect } = this.points;
    const pairs = this.tool === "landmarks" ? `Retail ${retail.length}, suspect ${suspect.length}. ` : "";
    const ready = this.tool === "landmarks" && retail.length >= 3 && retail.length === suspect.length;
    this.readout.querySelector("output").textContent = this.result || this.problem || pairs + TOOLS[this.tool].words;
    this.readout.classList.toggle("bad", Boolean(this.problem));
    this.readout.querySelector(".pin").hidden = !(this.result || ready);
    this.readout.querySelector("[data-pin] span").textContent = ready ? "Lay it on" : "Pin it";
    this.readout.querySelector("input").hidden = ready;
    this.problem = "";
  }

  paintSide(side, svg) {
    svg.querySelector(".gauge")?.remove();
    const group = make("g", { class: "gauge" });
    const points = this.points[side];
    const lines = side === this.side ? this.drawn : [];
    for (const line of lines.length ? lines : this.tool === "colour" || this.tool === "landmarks" ? [] : [points]) {
      for (const kind of ["halo", "ink"]) group.append(make("polyline", { class: kind, points: pointList(line) }));
    }
    points.forEach(([x, y], n) => {
      group.append(this.cross(x, y, "put"));
      const aside = 9 * unitOf(svg);
      if (this.tool === "landmarks") group.append(make("text", { x: x + aside, y: y - aside }, String(n + 1)));
    });
    if (this.cursor?.side === side) group.append(this.cross(...this.cursor.at, "cursor"));
    svg.append(group);
  }

  cross(x, y, kind) {
    const lines = ["halo", "ink"].map((name) => make("path", { class: name, d: "M-1 0H-.3M.3 0H1M0-1V-.3M0 .3V1" }));
    return make("g", { class: `cross ${kind}`, transform: `translate(${x} ${y})` }, ...lines);
  }
}

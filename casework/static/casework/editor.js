// Putting marks right on the suspect's photograph: ticks and rings (add, move, take away), paths and regions (move).
// Every change is sent at once; the answer brings the new number.
import { arrow, pointAt, pointList, setAll } from "./svg.js";

const HINTS = {
  ticks: "Click to add, drag to move, Delete takes the chosen one away. ← → choose, Shift + arrows move, A adds after it. T or Esc when done.",
  marks: "Drag the dots, or the line as a whole, onto the right place: it is measured again there. M or Esc when done.",
};
let tool = ""; // stays while the part is swapped, so that several ticks can be put right in a row
let chosen = -1;

export class Editor {
  constructor(root, work) {
    this.root = root;
    this.work = work;
    this.svg = root.querySelector(".pic[data-editable]");
    this.hint = root.querySelector(".tool-hint");
    if (Editor.lastWork !== work) { tool = ""; chosen = -1; }
    Editor.lastWork = work;
    this.paint();
  }

  get marks() { return this.svg ? [...this.svg.querySelectorAll(".mark")] : []; }

  toggle(name) {
    if (!this.svg) return;
    tool = tool === name ? "" : name;
    if (tool === "marks") this.svg.querySelector(".marking.lent")?.classList.remove("lent");
    chosen = tool === "ticks" && this.marks.length ? 0 : -1;
    this.paint();
  }

  paint() {
    this.root.classList.toggle("ticking", tool === "ticks");
    this.root.classList.toggle("marking-on", tool === "marks");
    this.root.querySelectorAll("[data-tool]").forEach((button) => button.classList.toggle("on", button.dataset.tool === tool));
    if (this.hint) { this.hint.hidden = !tool; this.hint.textContent = HINTS[tool] ?? ""; }
    this.marks.forEach((mark, n) => mark.classList.toggle("chosen", tool === "ticks" && n === chosen));
  }

  centres() { return this.marks.map((mark) => [Number(mark.dataset.cx), Number(mark.dataset.cy)]); }

  send(action, points) {
    const values = { points: JSON.stringify(points) };
    window.htmx.ajax("POST", `${this.work}${action}/`, { target: "#bench", swap: "outerHTML", values });
  }

  at(event) { return pointAt(event, this.svg); }

  key(event, key) {
    if (!tool) return false;
    if (key === "Escape") { this.toggle(tool); return true; }
    if (tool !== "ticks") return false;
    const step = arrow(event);
    if (step && event.shiftKey) return this.nudge(step);
    if (step && step[0] && this.marks.length) {
      chosen = (chosen + step[0] + this.marks.length) % this.marks.length;
      this.paint();
      return true;
    }
    if (event.key === "Delete" || event.key === "Backspace") return this.takeAway();
    if (key === "a") return this.addAfter();
    return false;
  }

  nudge([x, y]) {
    const points = this.centres();
    if (!points[chosen]) return true;
    points[chosen] = [points[chosen][0] + x, points[chosen][1] + y];
    this.send("correct", points);
    return true;
  }

  takeAway() {
    const points = this.centres();
    if (points[chosen]) { points.splice(chosen, 1); chosen = Math.max(0, chosen - 1); this.send("correct", points); }
    return true;
  }

  addAfter() {
    const points = this.centres();
    if (points.length < 2) return true;
    const here = Math.max(0, chosen), next = here + 1 < points.length ? points[here + 1] : null;
    const other = next ?? points[here - 1], sign = next ? 0.5 : -1;
    points.splice(here + 1, 0, points[here].map((c, k) => c + sign * (other[k] - c)));
    chosen = here + 1;
    this.send("correct", points);
    return true;
  }

  // Whether the editor takes this press on the photograph; otherwise the stage pans.
  takes(event, svg) {
    if (svg !== this.svg || !tool || event.button !== 0) return false;
    if (tool === "ticks") return this.pressTick(event);
    const handle = event.target.closest(".handle");
    const line = event.target.closest(".marking > polygon, .marking > polyline");
    if (!handle && !line) return false;
    this.dragMarks(event, handle);
    return true;
  }

  pressTick(event) {
    const mark = event.target.closest(".mark");
    if (!mark) { this.send("correct", [...this.centres(), this.at(event)]); return true; }
    chosen = this.marks.indexOf(mark);
    this.paint();
    const start = this.at(event), points = this.centres();
    const drag = (now) => mark.setAttribute("transform", `translate(${now[0] - start[0]} ${now[1] - start[1]})`);
    this.follow(event, drag, (now) => {
      if (Math.hypot(now[0] - start[0], now[1] - start[1]) < 0.5) return;
      points[chosen] = [points[chosen][0] + now[0] - start[0], points[chosen][1] + now[1] - start[1]];
      this.send("correct", points);
    });
    return true;
  }

  dragMarks(event, handle) {
    const handles = [...this.svg.querySelectorAll(".handle")];
    const before = handles.map((dot) => [Number(dot.getAttribute("cx")), Number(dot.getAttribute("cy"))]);
    const only = handle ? handles.indexOf(handle) : -1;
    const start = this.at(event);
    const by = (p, now) => [p[0] + now[0] - start[0], p[1] + now[1] - start[1]];
    const moved = (now) => before.map((p, n) => (only >= 0 && n !== only ? p : by(p, now)));
    const line = this.svg.querySelector(".marking > polygon, .marking > polyline");
    this.follow(event, (now) => {
      const points = moved(now);
      points.forEach(([cx, cy], n) => setAll(handles[n], { cx, cy }));
      line.setAttribute("points", pointList(points));
    }, (now) => this.send("marks", moved(now)));
  }

  follow(event, moving, done) {
    this.svg.setPointerCapture(event.pointerId);
    const move = (e) => moving(this.at(e));
    const up = (e) => {
      this.svg.removeEventListener("pointermove", move);
      this.svg.removeEventListener("pointerup", up);
      done(this.at(e));
    };
    this.svg.addEventListener("pointermove", move);
    this.svg.addEventListener("pointerup", up);
  }
}

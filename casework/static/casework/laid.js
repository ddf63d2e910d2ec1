// The suspect laid over the retail photograph: wipe, blink, ghost, difference. A caption always says which is which.

const SVG = "http://www.w3.org/2000/svg";
export const MODES = { w: "wipe", b: "blink", g: "ghost", d: "difference" };
let mode = ""; // stays from checkpoint to checkpoint
let share = 0.5; // where the wipe's line stands, of the stage's width
let swapped = false; // wipe: suspect on the left instead

export class Laid {
  constructor(root, work) {
    this.root = root;
    this.work = work;
    this.moved = [0, 0]; // nudged so far, in pixels of the retail picture, not sent yet
    this.base = root.querySelector(".retail .pic");
    this.over = root.querySelector(".suspect .pic[data-onto]");
    this.caption = root.querySelector(".retail .tag");
    this.plain = this.caption?.innerHTML;
    if (!this.possible) { return; }
    this.build();
    this.paint();
  }

  get possible() { return Boolean(this.base && this.over); }

  build() {
    this.image = document.createElementNS(SVG, "image");
    const from = this.over.querySelector("image");
    for (const name of ["href", "width", "height", "preserveAspectRatio"]) this.image.setAttribute(name, from.getAttribute(name));
    this.image.setAttribute("transform", `matrix(${this.over.dataset.onto})`);
    this.image.classList.add("laid");
    this.group = document.createElementNS(SVG, "g");
    this.group.append(this.image);
    const clip = document.createElementNS(SVG, "clipPath");
    clip.id = "wipe-clip";
    this.window = document.createElementNS(SVG, "rect");
    clip.append(this.window);
    this.line = document.createElementNS(SVG, "path");
    this.line.classList.add("wipe-line");
    this.base.querySelector("image").after(clip, this.group, this.line);
  }

  toggle(name) {
    if (!this.possible) return false;
    mode = mode === name ? "" : name;
    this.paint();
    return true;
  }

  key(event, key) {
    if (!this.possible) return false;
    if (mode && event.key === "Escape") return this.toggle(mode);
    if (key === "b" && mode === "blink") { this.root.classList.add("blinking"); this.say(); return true; }
    if (key in MODES) return event.repeat || this.toggle(MODES[key]);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (mode && step && event.shiftKey) return this.nudge(step);
    if (mode === "wipe" && key === "x") { swapped = !swapped; this.paint(); return true; }
    if (mode === "wipe" && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
      this.moveTo(share + (event.key === "ArrowLeft" ? -0.02 : 0.02));
      return true;
    }
    return false;
  }

  // Shift + arrows move the suspect by a pixel of the screen; kept once the hand rests.
  nudge([x, y]) {
    if (!this.root.dataset.open) return true;
    const unit = Number(this.base.style.getPropertyValue("--u")) || 1;
    this.moved = [this.moved[0] + x * unit, this.moved[1] + y * unit];
    const onto = new DOMMatrix(this.over.dataset.onto.split(" ").map(Number));
    const shown = new DOMMatrix().translate(...this.moved).multiply(onto);
    this.image.setAttribute("transform", `matrix(${[shown.a, shown.b, shown.c, shown.d, shown.e, shown.f].join(" ")})`);
    clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      const values = { points: JSON.stringify([this.moved]) };
      window.htmx.ajax("POST", `${this.work}nudge/`, { target: "#bench", swap: "outerHTML", values });
    }, 700);
    return true;
  }

  letGo(key) {
    if (key === "b" && this.possible) { this.root.classList.remove("blinking"); this.say(); }
  }

  moveTo(where) {
    share = Math.min(0.98, Math.max(0.02, where));
    this.place();
  }

  // Whether this press is on the wipe's line, and is taken.
  takes(event) {
    if (mode !== "wipe" || !event.target.closest(".wipe-line")) return false;
    const frame = this.base.getBoundingClientRect();
    this.base.setPointerCapture(event.pointerId);
    const move = (e) => this.moveTo((e.clientX - frame.left) / frame.width);
    this.base.addEventListener("pointermove", move);
    this.base.addEventListener("pointerup", () => this.base.removeEventListener("pointermove", move), { once: true });
    return true;
  }

  paint() {
    this.root.dataset.laid = mode;
    this.root.classList.toggle("laid-over", Boolean(mode));
    this.root.querySelectorAll("[data-tool]").forEach((b) => { if (Object.values(MODES).includes(b.dataset.tool)) b.classList.toggle("on", b.dataset.tool === mode); });
    this.group.toggleAttribute("clip-path", false);
    if (mode === "wipe") this.group.setAttribute("clip-path", "url(#wipe-clip)");
    this.say();
    this.place();
  }

  // The line follows the frame, not the photograph: called again whenever the view moves.
  place() {
    if (!this.possible || mode !== "wipe") return;
    const frame = this.base.getBoundingClientRect();
    const back = this.base.getScreenCTM()?.inverse();
    if (!back) return;
    const at = (x, y) => new DOMPoint(x, y).matrixTransform(back);
    const top = at(frame.left + share * frame.width, frame.top), bottom = at(frame.left, frame.bottom), right = at(frame.right, frame.top), left = at(frame.left, frame.top);
    const [from, to] = swapped ? [left.x, top.x] : [top.x, right.x];
    for (const [name, value] of Object.entries({ x: from, y: top.y, width: Math.max(0, to - from), height: bottom.y - top.y })) this.window.setAttribute(name, value);
    this.line.setAttribute("d", `M${top.x} ${top.y}V${bottom.y}`);
  }

  say() {
    if (!this.caption) return;
    const blinking = this.root.classList.contains("blinking");
    const words = {
      wipe: swapped ? "<strong>Suspect</strong> left of the line, <strong>Retail</strong> right" : "<strong>Retail</strong> left of the line, <strong>Suspect</strong> right",
      blink: blinking ? "Now: <strong>Suspect</strong>" : "Now: <strong>Retail</strong>, hold B for the suspect",
      ghost: "<strong>Retail</strong> and <strong>Suspect</strong>, half of each",
      difference: "<strong>Retail</strong> less <strong>Suspect</strong>: black where they agree",
    }[mode];
    this.caption.innerHTML = words ? `<span>${words}</span><span class="mono">${mode === "wipe" ? "X swaps" : "laid over"}</span>` : this.plain;
  }
}

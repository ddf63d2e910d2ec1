// The suspect laid over the retail photograph: wipe, blink, ghost, difference. A caption always says which is which.
import { arrow, copyImage, inPicture, make, matrixOf, setAll, unitOf } from "./svg.js";

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
    this.image = copyImage(this.over.querySelector("image"));
    setAll(this.image, { class: "laid", transform: `matrix(${this.over.dataset.onto})` });
    this.group = make("g", {}, this.image);
    this.window = make("rect");
    const clip = make("clipPath", { id: "wipe-clip" }, this.window);
    this.line = make("path", { class: "wipe-line" });
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
    const step = arrow(event);
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
    const unit = unitOf(this.base);
    this.moved = [this.moved[0] + x * unit, this.moved[1] + y * unit];
    const shown = new DOMMatrix().translate(...this.moved).multiply(matrixOf(this.over.dataset.onto));
    const { a, b, c, d, e, f } = shown;
    this.image.setAttribute("transform", `matrix(${[a, b, c, d, e, f].join(" ")})`);
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
    this.root.querySelectorAll("[data-tool]").forEach((button) => {
      if (Object.values(MODES).includes(button.dataset.tool)) button.classList.toggle("on", button.dataset.tool === mode);
    });
    this.group.toggleAttribute("clip-path", false);
    if (mode === "wipe") this.group.setAttribute("clip-path", "url(#wipe-clip)");
    this.say();
    this.place();
  }

  // The line follows the frame, not the photograph: called again whenever the view moves.
  place() {
    if (!this.possible || mode !== "wipe") return;
    const frame = this.base.getBoundingClientRect();
    const first = inPicture(this.base, frame.left, frame.top), last = inPicture(this.base, frame.right, frame.bottom);
    if (!first) return;
    const [left, top] = first, [right, bottom] = last, middle = left + share * (right - left);
    const [from, to] = swapped ? [left, middle] : [middle, right];
    setAll(this.window, { x: from, y: top, width: Math.max(0, to - from), height: bottom - top });
    this.line.setAttribute("d", `M${middle} ${top}V${bottom}`);
  }

  say() {
    if (!this.caption) return;
    const blinking = this.root.classList.contains("blinking");
    const words = {
      wipe: swapped
        ? "<strong>Suspect</strong> left of the line, <strong>Retail</strong> right"
        : "<strong>Retail</strong> left of the line, <strong>Suspect</strong> right",
      blink: blinking ? "Now: <strong>Suspect</strong>" : "Now: <strong>Retail</strong>, hold B for the suspect",
      ghost: "<strong>Retail</strong> and <strong>Suspect</strong>, half of each",
      difference: "<strong>Retail</strong> less <strong>Suspect</strong>: black where they agree",
    }[mode];
    const aside = mode === "wipe" ? "X swaps" : "overlaid";
    this.caption.innerHTML = words ? `<span>${words}</span><span class="mono">${aside}</span>` : this.plain;
  }
}

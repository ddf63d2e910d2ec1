// Entry: wires keys, stage and small comforts; runs again on every part that htmx swaps in.
import { setUpArrivals } from "./arrivals.js";
import { setUpDesk } from "./desk.js";
import { setUpDrop } from "./drop.js";
import { isTyping, keepKeys } from "./keys.js";
import { setUpPacking } from "./packing.js";
import { setUpStage } from "./stage.js";
import "./drill.js";
import "./order.js";
import "./saving.js";
import "./seen.js";
import "./ultraviolet.js";

function comfort(root) {
  // Measured: show it, but never under the hands of somebody who is typing.
  if (root.querySelector("[data-reload]") && !isTyping(document.activeElement)) window.location.reload();
}

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-open]");
  if (opener) document.getElementById(opener.dataset.open)?.showModal();
});

// The clipboard proper is there on secure pages only; a counter's own network may have none.
document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-copy]");
  if (!button) return;
  const text = button.closest("div").querySelector("textarea");
  text.select();
  const copied = navigator.clipboard ? await navigator.clipboard.writeText(text.value).then(() => true, () => false) : document.execCommand("copy");
  button.nextElementSibling.textContent = copied ? "Copied." : "Press Ctrl and C: the text is selected.";
});

// What rules a pair out is asked once more: the second Enter lies on the answer.
document.addEventListener("toggle", (event) => {
  if (event.target.matches?.("details.rules-out[open]")) event.target.querySelector("[data-sure]").focus();
}, true);

document.addEventListener("input", (event) => {
  if (event.target.id !== "find-check") return;
  const wanted = event.target.value.toLowerCase();
  document.querySelectorAll("#find .found li").forEach((item) => {
    item.hidden = !item.textContent.toLowerCase().includes(wanted);
  });
});

document.addEventListener("submit", (event) => {
  if (event.target.closest("#find")) {
    event.preventDefault();
    const first = document.querySelector("#find .found li:not([hidden]) a");
    if (first) window.location.assign(first.href);
    return;
  }
  // A second click while the first is on its way changes nothing.
  if (event.target.method !== "dialog" && !event.target.hasAttribute("hx-post") && !event.defaultPrevented) {
    event.target.querySelectorAll("button").forEach((button) => setTimeout(() => { button.disabled = true; }, 0));
  }
});
window.addEventListener("pageshow", () => document.querySelectorAll("form button:disabled").forEach((b) => { b.disabled = false; }));

// Of the facts only what was changed here is sent: a colleague may have changed another one meanwhile.
const factsOf = (form) => {
  const found = {};
  for (const [name, value] of new FormData(form)) found[name] = [...(found[name] ?? []), value];
  return found;
};
let factsSent = {}, factsChanged = [];
document.addEventListener("htmx:configRequest", (event) => {
  if (event.target.id !== "facts") return;
  const now = factsOf(event.target);
  for (const name of Object.keys(now)) {
    if (name !== "csrfmiddlewaretoken" && JSON.stringify(now[name]) === JSON.stringify(factsSent[name])) delete event.detail.parameters[name];
  }
  factsChanged = Object.keys(now).filter((name) => event.detail.parameters[name] !== undefined);
  factsSent = now;
});
// What was refused, or did not arrive, is sent again with the next one.
const sendAgain = () => factsChanged.forEach((name) => delete factsSent[name]);
document.addEventListener("htmx:afterSwap", () => { if (document.querySelector("#applies .problem")) sendAgain(); });
for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, (event) => { if (event.target.id === "facts") sendAgain(); });
}
const keepFacts = () => { const form = document.getElementById("facts"); if (form) factsSent = factsOf(form); };

// Words that the list under "?" explains say so when pointed at.
const explain = () => {
  const words = [...document.querySelectorAll("#keys .words dt")].map((dt) => [dt.textContent, dt.nextElementSibling.textContent]);
  document.querySelectorAll("[data-word]:not([title])").forEach((place) => {
    const said = ` ${place.textContent.toLowerCase().replace(/[^a-z ]+/g, " ")} `;
    const found = words.find(([word]) => said.includes(` ${word} `));
    if (found) place.title = `${found[0]}: ${found[1]}`;
  });
};
// The check that is worked on is in view on the left, and whoever listens hears that it has changed.
let announced = "";
const follow = () => {
  document.querySelector(".rail .on")?.scrollIntoView({ block: "nearest" });
  const name = document.querySelector("#bench .panel h2")?.textContent ?? "";
  const voice = document.getElementById("announce");
  if (voice && name && announced && name !== announced) voice.textContent = name;
  announced = name;
};
// A tool that is on says so to whoever cannot see it.
new MutationObserver((changes) => changes.forEach(({ target }) => {
  if (target.dataset.tool) target.setAttribute("aria-pressed", String(target.classList.contains("on")));
})).observe(document.documentElement, { subtree: true, attributeFilter: ["class"] });
const setUp = () => { comfort(document); explain(); setUpStage(); setUpDrop(); setUpArrivals(); setUpDesk(); setUpPacking(); keepFacts(); follow(); };
document.addEventListener("DOMContentLoaded", setUp);
// After settling: before it, htmx puts the classes back that the server sent.
document.addEventListener("htmx:afterSettle", (event) => {
  comfort(document);
  explain();
  if (event.detail.target?.id === "bench" || event.target?.id === "bench") { setUpStage(); setUpPacking(); follow(); }
});
keepKeys();
if (document.readyState !== "loading") setUp();

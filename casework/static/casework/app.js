// Entry: wires keys, stage and small comforts; runs again on every part that htmx swaps in.
import { setUpDesk } from "./desk.js";
import { setUpDrop } from "./drop.js";
import { isTyping, keepKeys } from "./keys.js";
import { setUpPacking } from "./packing.js";
import { setUpStage } from "./stage.js";
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
  if (event.target.method !== "dialog" && !event.target.hasAttribute("hx-post")) {
    event.target.querySelectorAll("button").forEach((button) => setTimeout(() => { button.disabled = true; }, 0));
  }
});
window.addEventListener("pageshow", () => document.querySelectorAll("form button:disabled").forEach((b) => { b.disabled = false; }));

const setUp = () => { comfort(document); setUpStage(); setUpDrop(); setUpDesk(); setUpPacking(); };
document.addEventListener("DOMContentLoaded", setUp);
// After settling: before it, htmx puts the classes back that the server sent.
document.addEventListener("htmx:afterSettle", (event) => {
  comfort(document);
  if (event.detail.target?.id === "bench" || event.target?.id === "bench") { setUpStage(); setUpPacking(); }
});
keepKeys();
if (document.readyState !== "loading") setUp();

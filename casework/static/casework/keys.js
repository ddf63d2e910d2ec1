// Keys: every one is listed under "?".
import { deskKey } from "./desk.js";
import { packingKey } from "./packing.js";
import { stageKey, letGo } from "./stage.js";

export const isTyping = (element) => element?.matches?.("input:not([type=radio]), textarea, select");
// To the first field that is empty; where all are filled in already, they are sent.
const fillOrSend = (field) => {
  const fields = field.dataset.enter === undefined ? [field] : [...field.form.querySelectorAll("input.mono")];
  const empty = fields.find((one) => one.value === "");
  if (empty || field.dataset.enter === undefined) (empty ?? field).focus();
  else field.form.requestSubmit();
};
const press = (selector) => {
  const found = document.querySelector(selector);
  if (found?.dataset.focus !== undefined) found.focus();
  else if (isTyping(found) && found.type !== "file") fillOrSend(found);
  else found?.click();
  return Boolean(found);
};

const PLAIN = {
  "?": () => { document.getElementById("keys").showModal(); return true; },
  "/": () => { const find = document.getElementById("find"); find?.showModal(); return Boolean(find); },
  n: () => { const field = document.querySelector("[data-new-case]"); field?.focus(); field?.select(); return Boolean(field); },
  j: () => press('[data-key-go="j"]'),
  k: () => press('[data-key-go="k"]'),
  v: () => press('[data-key-go="v"]'),
  ".": () => press('[data-key-go="t"]'),
  i: () => press('[data-key-go="i"]'),
  l: () => press('[data-key-go="l"]'),
  b: () => press(".applies .go"),
  a: () => press("[data-pick]"),
  p: () => press("[data-phone]"),
  r: () => {
    const details = document.querySelector(".seen-form");
    if (!details) return false;
    details.open = true;
    details.querySelector("input:not([type=hidden])").focus();
    return true;
  },
  u: () => {
    const details = document.querySelector(".cannot details");
    if (!details) return false;
    details.open = true;
    details.querySelector("input").focus();
    return true;
  },
  Enter: () => press("[data-enter]"),
};

function onKey(event) {
  if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
  if (isTyping(event.target)) {
    if (event.key === "Escape") event.target.blur();
    // Nothing begins with a question mark: in an empty field it asks for the keys.
    if (event.key === "?" && event.target.value === "" && PLAIN["?"]()) event.preventDefault();
    return;
  }
  if (event.key === "Enter" && event.target.closest("button, a, summary")) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (packingKey(event, key)) { event.preventDefault(); return; }
  const placed = /^[1-9a-z]$/.test(key) && press(`[data-place="${key}"]`);
  const done = placed || stageKey(event, key) || deskKey(event, key) || (/^[1-9]$/.test(key) && press(`[data-digit="${key}"]`)) || PLAIN[key]?.() || (/^[a-z]$/.test(key) && press(`[data-key-go="${key}"]`));
  if (done) event.preventDefault();
}

export function keepKeys() {
  document.addEventListener("keydown", onKey);
  document.addEventListener("keyup", (event) => letGo(event.key.toLowerCase()));
}

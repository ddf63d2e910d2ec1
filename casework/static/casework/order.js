// Checks of a guide put in order: a line is dragged to another place of its list, or moved with Alt and the arrows.

import { notSaved } from "./saving.js";

const token = document.querySelector("#order [name=csrfmiddlewaretoken]");
const said = document.querySelector("[data-order-said]");
let held = null;

async function keep(list, item) {
  const next = item.nextElementSibling;
  const body = new URLSearchParams({ check: item.dataset.check, before: next?.dataset.check ?? "" });
  const answer = await fetch(list.dataset.order, {
    method: "POST",
    headers: { "X-CSRFToken": token.value, Accept: "application/json" },
    body,
  }).catch(() => null);
  const name = item.querySelector("b").textContent;
  if (answer?.ok) said.textContent = `${name}: moved.`;
  else if (answer) {
    said.textContent = `${name} could not be moved.`;
    window.location.reload(); // what the server has is shown
  } else notSaved(() => keep(list, item));
}

for (const list of document.querySelectorAll("[data-order]")) {
  for (const item of list.querySelectorAll("[data-check]")) item.tabIndex = 0;
  list.addEventListener("dragstart", (event) => {
    held = event.target.closest?.("[data-check]");
    if (!held || !list.contains(held)) return;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", held.id);
    held.classList.add("held");
  });
  list.addEventListener("dragover", (event) => {
    const over = event.target.closest("[data-check]");
    if (!held || !list.contains(held)) return;
    event.preventDefault();
    if (!over || over === held) return;
    const box = over.getBoundingClientRect();
    list.insertBefore(held, event.clientY < box.top + box.height / 2 ? over : over.nextElementSibling);
  });
  list.addEventListener("drop", (event) => event.preventDefault());
  list.addEventListener("dragend", () => {
    if (!held) return;
    held.classList.remove("held");
    keep(list, held);
    held = null;
  });
  list.addEventListener("keydown", (event) => {
    const item = event.target.closest("[data-check]");
    if (!event.altKey || event.target !== item || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    const other = event.key === "ArrowUp" ? item.previousElementSibling : item.nextElementSibling;
    event.preventDefault();
    if (!other?.dataset.check) return;
    if (event.key === "ArrowUp") list.insertBefore(item, other);
    else list.insertBefore(other, item);
    item.focus();
    keep(list, item);
  });
}

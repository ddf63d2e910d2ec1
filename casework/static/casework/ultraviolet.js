// The clock next to a UV step: how long the lamp was on, against the limit that the server works out. Kept for the tab.
const KEPT = "uv-seconds";

const clock = (seconds) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

let since = null;
const spent = () => Number(sessionStorage.getItem(KEPT) || 0) + (since ? (Date.now() - since) / 1000 : 0);

function show() {
  for (const box of document.querySelectorAll(".uv-clock")) {
    const allowed = Number(box.querySelector("#uv-allowed").dataset.seconds);
    box.querySelector("output").textContent = clock(spent());
    box.querySelector("[data-uv-switch]").textContent = since ? "Lamp off" : "Lamp on";
    box.classList.toggle("over", allowed > 0 && spent() >= allowed);
  }
}

function stop() {
  sessionStorage.setItem(KEPT, String(spent()));
  since = null;
}

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-uv-switch]")) return;
  if (since) stop();
  else since = Date.now();
  show();
});
document.addEventListener("htmx:afterSwap", show);
addEventListener("pagehide", () => since && stop());
setInterval(() => since && show(), 1000);
show();

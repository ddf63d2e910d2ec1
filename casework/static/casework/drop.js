// Many photographs at once: dropped or chosen, sent one after the other, each with its own word on how it went.

const AT_A_TIME = 2, MOST = 60;

export function setUpDrop(root = document) { root.querySelectorAll("[data-drop]").forEach((form) => whenDropped(form, send)); }

// Files chosen in a form, or dropped anywhere on its page, go to ``take(form, files)``; of several forms into each.
export function whenDropped(form, take) {
  if (!form || form.dataset.ready) return;
  form.dataset.ready = "yes";
  const pick = form.querySelector("[data-pick]");
  pick.addEventListener("change", () => { take(form, [...pick.files]); pick.value = ""; });
  const over = (on) => form.classList.toggle("over", on);
  const mine = (event) => form.isConnected && (document.querySelectorAll("[data-drop]").length < 2 || form.parentElement.contains(event.target));
  document.addEventListener("dragover", (event) => { event.preventDefault(); over(mine(event)); });
  document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) over(false); });
  document.addEventListener("drop", (event) => {
    event.preventDefault();
    over(false);
    if (mine(event)) take(form, [...event.dataTransfer.files]);
  });
}

async function send(form, files) {
  const list = form.querySelector(".drop-files");
  list.replaceChildren();
  if (files.length > MOST) line(list, `${files.length} files came; the first ${MOST} are taken. Drop the rest afterwards.`, "bad");
  const waiting = files.slice(0, MOST).map((file) => ({ file, item: line(list, `${file.name}: waiting`) }));
  await aFewAtATime(waiting, (next) => one(form, next));
  refresh(form);
}

export async function aFewAtATime(waiting, job) {
  const worker = async () => { for (let next = waiting.shift(); next; next = waiting.shift()) await job(next); };
  await Promise.all(Array.from({ length: AT_A_TIME }, worker));
}

async function one(form, { file, item }) {
  item.textContent = `${file.name}: sending`;
  const body = new FormData(form);
  body.delete("files");
  body.append("files", file, file.name);
  try {
    const answer = await fetch(form.action, { method: "POST", body, headers: { Accept: "application/json" } });
    const { problems } = await answer.json();
    if (problems.length) { item.textContent = problems.join(" "); item.className = "bad"; } else { item.remove(); }
  } catch {
    item.textContent = `${file.name}: the connection broke off. Nothing else is lost; send it again.`;
    item.className = "bad";
  }
  refresh(form);
}

// Not while somebody's word on a photograph is on its way: its answer would find its place gone.
function refresh(form) {
  if (document.querySelector("#tray .htmx-request")) { setTimeout(() => refresh(form), 300); return; }
  window.htmx.ajax("GET", form.dataset.tray, { target: "#tray", swap: "outerHTML" });
}

export function line(list, words, kind = "") {
  const item = document.createElement("li");
  item.textContent = words;
  item.className = kind;
  list.append(item);
  return item;
}

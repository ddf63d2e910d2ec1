// A short tour of the demo: one sentence at a time, beside the thing it speaks of. Ended once, it stays away.

const STEPS = [
  ["body:has(.counter)", "a[href$='/cases/403/bench/'], a[href*='/cases/403']", "Cases wait here. Open 0403: somebody wants to know what it is."],
  ["body:has(#bench)", ".rail", "What departs from retail stands first; J goes on to the next check."],
  ["body:has(#bench)", "figure.suspect", "Retail lies above, the suspect below, with the same places marked on both."],
  ["body:has(#bench)", ".panel .num", "What was read here, and what verified pairs do."],
  ["body:has(#bench)", ".panel [data-enter], .panel .action", "A flag counts once you have looked and pressed Enter."],
  ["body:has(#bench)", ".balance", "This is where the case stands; . goes to the check that tells most, V to the verdict."],
  ["body:has(.verdict)", ".verdict-sign", "You sign, in your words: the rule only proposes."],
];
const KEPT = "wahrheit-demo-tour";
const bubble = document.createElement("aside");
bubble.className = "tour";
bubble.setAttribute("role", "note");
bubble.innerHTML = '<p></p><button type="button" class="quiet" data-next>Next</button> <button type="button" class="bare" data-end>End the tour</button> <small></small>';

const step = () => Number(localStorage.getItem(KEPT) ?? 0);
const go = (n) => { localStorage.setItem(KEPT, n); show(); };

function show() {
  const n = step(), [page, selector, words] = STEPS[n] ?? [];
  const target = page && document.querySelector(page) && [...document.querySelectorAll(selector)].find((one) => one.getClientRects().length);
  if (!target) { bubble.remove(); return; }
  bubble.querySelector("p").textContent = words;
  bubble.querySelector("small").textContent = `${n + 1} of ${STEPS.length}`;
  bubble.querySelector("[data-next]").hidden = STEPS[n + 1]?.[0] !== page;
  document.body.append(bubble);
  const at = target.getBoundingClientRect(), own = bubble.getBoundingClientRect();
  const tall = at.height > innerHeight / 4, below = at.bottom + own.height + 16 < innerHeight;
  const beside = at.right + own.width + 16 < innerWidth ? at.right + 8 : at.left - own.width - 8;
  const [left, top] = tall ? [beside, at.top + 24] : [at.left + 12, below ? at.bottom + 8 : at.top - own.height - 8];
  bubble.style.top = `${Math.min(Math.max(8, top), innerHeight - own.height - 8)}px`;
  bubble.style.left = `${Math.min(Math.max(8, left), innerWidth - own.width - 8)}px`;
}

// The next page's first step begins where this page's last one ends.
function arrive() {
  const later = STEPS.findIndex(([page], n) => n > step() && document.querySelector(page));
  if (step() < STEPS.length && !document.querySelector(STEPS[step()][0]) && later > 0) localStorage.setItem(KEPT, later);
  show();
}
bubble.addEventListener("click", (event) => {
  if (event.target.matches("[data-next]")) go(step() + 1);
  if (event.target.matches("[data-end]")) go(STEPS.length);
});
document.addEventListener("htmx:afterSettle", show);
addEventListener("resize", show);
arrive();

// A drill's clock: how long somebody took; of a whole pair how long is left.

const drill = document.querySelector("[data-drill]");
const field = document.querySelector("[data-seconds]");
if (drill && field) {
  const began = performance.now();
  field.form.addEventListener("submit", () => { field.value = ((performance.now() - began) / 1000).toFixed(1); });
  const left = drill.querySelector("[data-left]");
  if (left) {
    const most = Number(drill.dataset.clock);
    const tick = setInterval(() => {
      const rest = Math.max(0, Math.ceil(most - (performance.now() - began) / 1000));
      left.textContent = rest;
      if (!rest) { clearInterval(tick); field.form.querySelector('[value="3"]').click(); }
    }, 250);
  }
}

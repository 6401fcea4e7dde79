// Timers run on between two looks; their deadlines are in the data file, so a closed page loses
// nothing. The server's time counts, not that of the phone.
const bench = document.querySelector("[data-now]");
const timers = [...document.querySelectorAll("[data-ends]")].filter((timer) => Number(timer.dataset.ends) > 0);

if (bench && timers.length > 0) {
  const began = Date.now();
  const now = () => Number(bench.dataset.now) + Date.now() - began;
  const two = (number) => String(number).padStart(2, "0");
  const tick = () => {
    for (const timer of timers) {
      if ("held" in timer.dataset) continue;
      const left = Number(timer.dataset.ends) - now();
      const late = Math.floor(-left / 60000);
      timer.classList.toggle("is-late", late >= 1);
      if (late >= 120) timer.textContent = `overdue by ${Math.floor(late / 60)}:${two(late % 60)} h`;
      else if (late >= 1) timer.textContent = `overdue by ${late} min`;
      else {
        const seconds = Math.max(0, Math.ceil(left / 1000));
        timer.textContent = "minutes" in timer.dataset
          ? `${Math.floor(seconds / 60)}:${two(seconds % 60)}`
          : `${Math.floor(seconds / 3600)}:${two(Math.floor(seconds / 60) % 60)}`;
      }
    }
  };
  tick();
  setInterval(tick, 1000);
}

// From part to part by the arrow keys; the space bar ticks, as it does anyway.
const sheet = document.querySelector("[data-setups]");
const steps = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

sheet?.addEventListener("keydown", (event) => {
  const step = steps[event.key];
  if (!step || !event.target.matches("input[name=part]")) return;
  const all = [...sheet.querySelectorAll("input[name=part]")];
  const next = all[all.indexOf(event.target) + step];
  if (!next) return;
  event.preventDefault();
  next.focus();
  next.closest("li").scrollIntoView({ block: "nearest" });
});

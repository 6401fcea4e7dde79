// A bar dragged along the ruler, or onto another printer, fills in the form beside it and sends it:
// the server says whether it fits.
const form = document.querySelector("#move");
const ruler = document.querySelector(".ruler-of-days");

if (form) {
  const { plate, printer, from } = form.elements;
  const follow = () => {
    const chosen = plate.selectedOptions[0];
    printer.value = chosen.dataset.printer;
    from.value = chosen.dataset.from;
  };
  plate.addEventListener("change", follow);
  follow();
  // A browser that comes back to the page remembers what was dragged before.
  form.elements.from_ms.value = "";
}

if (form && ruler) {
  const { plate, printer, from } = form.elements;
  const data = Object.fromEntries(["from", "to", "left", "width"].map((name) => [name, Number(ruler.dataset[name])]));
  const place = (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(ruler.getScreenCTM().inverse());
    return { x: at.x, y: at.y, ms: data.from + ((at.x - data.left) / data.width) * (data.to - data.from) };
  };
  let held = null;
  ruler.addEventListener("pointerdown", (event) => {
    const bar = event.target.closest("[data-plate]");
    if (!bar || ![...plate.options].some((option) => option.value === bar.dataset.plate)) return;
    event.preventDefault();
    held = { bar, begun: place(event), moved: false };
    ruler.setPointerCapture(event.pointerId);
  });
  ruler.addEventListener("pointermove", (event) => {
    if (!held) return;
    const now = place(event);
    held.moved ||= Math.hypot(now.x - held.begun.x, now.y - held.begun.y) > 4;
    if (held.moved) held.bar.setAttribute("transform", `translate(${now.x - held.begun.x} ${now.y - held.begun.y})`);
  });
  ruler.addEventListener("pointerup", (event) => {
    if (!held) return;
    const { bar, begun, moved } = held;
    held = null;
    if (!moved) {
      location.assign(bar.getAttribute("href"));
      return;
    }
    const now = place(event);
    const rows = [...ruler.querySelectorAll("[data-printer]")];
    const row = rows.filter((each) => Number(each.dataset.y) <= now.y).at(-1) ?? rows[0];
    plate.value = bar.dataset.plate;
    printer.value = row.dataset.printer;
    // Along the ruler by so much; up or down alone leaves the time to the schedule.
    const along = Math.abs(now.x - begun.x) > 6;
    const at = new Date(Math.round((Number(bar.dataset.load) + now.ms - begun.ms) / 300000) * 300000);
    from.value = "";
    const moment = form.elements.from_ms;
    moment.value = along ? String(at.getTime()) : "";
    form.requestSubmit();
  });
  ruler.classList.add("movable");
  ruler.addEventListener("click", (event) => {
    if (event.target.closest("[data-plate]") && event.detail > 0) event.preventDefault();
  });
}

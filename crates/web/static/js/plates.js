// A copy picked in plan, elevation or bill lights up everywhere; while judging, a click marks it
// as failed.
const sheet = document.querySelector("[data-sheet]");

function all(key) {
  return sheet.querySelectorAll(`[data-copy="${CSS.escape(key)}"], [data-of~="${CSS.escape(key)}"]`);
}

function pick(keys, on) {
  for (const key of keys) for (const mark of all(key)) mark.classList.toggle("is-picked", on);
}

function tally() {
  const out = sheet.querySelector("[data-failed-count]");
  if (out) out.textContent = sheet.querySelectorAll("input[name=failed]:checked").length;
}

// What can be said of a copy stands under it once it is ticked.
function sayMore(box) {
  const cell = box.closest("td");
  const blank = sheet.querySelector("#say-more");
  if (!blank || !cell || cell.querySelector(".say-more")) return;
  const more = blank.content.cloneNode(true);
  const label = box.closest("label").textContent.trim();
  for (const field of more.querySelectorAll("[name]")) {
    field.name += box.value;
    field.setAttribute("aria-label", field.getAttribute("aria-label") + label);
  }
  cell.append(more);
}

if (sheet) {
  const keysOf = (target) => {
    const one = target.closest("[data-copy]");
    if (one) return [one.dataset.copy];
    const some = target.closest("[data-of]");
    return some ? some.dataset.of.split(" ") : [];
  };
  sheet.addEventListener("pointerover", (event) => pick(keysOf(event.target), true));
  sheet.addEventListener("pointerout", (event) => pick(keysOf(event.target), false));
  sheet.addEventListener("focusin", (event) => pick(keysOf(event.target), true));
  sheet.addEventListener("focusout", (event) => pick(keysOf(event.target), false));

  for (const box of sheet.querySelectorAll("input[name=failed]")) {
    const show = () => {
      for (const mark of sheet.querySelectorAll(`svg [data-copy="${CSS.escape(box.value)}"]`)) {
        mark.classList.toggle("is-failed", box.checked);
      }
      if (box.checked) sayMore(box);
      tally();
    };
    box.addEventListener("change", show);
    show();
  }
  sheet.addEventListener("click", (event) => {
    const shape = event.target.closest("svg [data-copy]");
    if (!shape) return;
    const box = sheet.querySelector(`input[name=failed][value="${CSS.escape(shape.dataset.copy)}"]`);
    if (box) box.click();
  });
}

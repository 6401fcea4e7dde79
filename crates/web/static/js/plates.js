// A copy picked in plan, elevation or bill lights up everywhere; while judging, a click marks it
// as failed; afterwards a click names it in the forms that ask which one.
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
  const part = box.closest("fieldset");
  const blank = sheet.querySelector("#say-more");
  if (!blank || part.querySelector(`[name="as_${CSS.escape(box.value)}"]`)) return;
  const more = blank.content.cloneNode(true);
  const mark = box.closest("label").textContent.trim();
  const label = `${part.querySelector("legend").textContent}, ${mark}`;
  more.querySelector("[data-which]").textContent = mark;
  for (const field of more.querySelectorAll("[name]")) {
    field.name += box.value;
    field.setAttribute("aria-label", field.getAttribute("aria-label") + label);
  }
  part.append(more);
}

// Copies of a part share the name that is shown when the pointer rests on one; this adds its mark.
function nameWhole(shape) {
  const shared = shape?.parentNode.querySelector(":scope > title");
  if (!shared || !shape.dataset.mark || shape.querySelector("title")) return;
  const name = document.createElementNS(shape.namespaceURI, "title");
  name.textContent = `${shared.textContent.trim()}, mark ${shape.dataset.mark}`;
  shape.append(name);
}

// The forms that ask which copy: the one with this mark.
function fillIn(mark) {
  if (!mark) return;
  for (const field of sheet.querySelectorAll("[name=mark]")) {
    if (!field.options || [...field.options].some((each) => each.value === mark)) field.value = mark;
  }
}

if (sheet) {
  const keysOf = (target) => {
    const one = target.closest("[data-copy]");
    if (one) return [one.dataset.copy];
    const some = target.closest("[data-of]");
    return some ? some.dataset.of.split(" ") : [];
  };
  sheet.addEventListener("pointerover", (event) => {
    nameWhole(event.target.closest("svg [data-mark]"));
    pick(keysOf(event.target), true);
  });
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
    const marked = all(shape.dataset.copy);
    fillIn([...marked].find((each) => each.dataset.mark)?.dataset.mark);
    const box = sheet.querySelector(`input[name=failed][value="${CSS.escape(shape.dataset.copy)}"]`);
    if (box) box.click();
  });
}

// Arranging a plate by hand: copies are dragged, turned, nudged, pinned and taken off; the server
// looks at every change and answers with the sheet as it is then, or with what is in the way.
const sheet = document.querySelector("[data-sheet]");

const STEP = 1;
const FINE = 0.1;
const TURN = 15;
let picked = "";
let drag = null;
let waiting = Promise.resolve();

const byHand = () => sheet.querySelector(".is-by-hand svg.plate-sheet");
const shapes = () => [...sheet.querySelectorAll(".is-by-hand .plan [data-copy]")];
const shapeOf = (key) => shapes().find((shape) => shape.dataset.copy === key);
const numberOf = (key) => key.replace(/^s/, "");

function tell(words) {
  const out = sheet.querySelector("[data-answer]");
  if (out) out.textContent = words;
}

function pick(key) {
  picked = key;
  for (const mark of sheet.querySelectorAll("[data-copy]")) {
    mark.classList.toggle("is-held", mark.dataset.copy === key && key !== "");
  }
  for (const row of sheet.querySelectorAll("[data-of]")) {
    row.classList.toggle("is-held", key !== "" && row.dataset.of.split(" ").includes(key));
  }
  const list = sheet.querySelector("#picked");
  if (list) list.value = key === "" ? "" : numberOf(key);
}

// Advice is worked out after the hand has come to rest.
let resting = 0;
function advise(after) {
  clearTimeout(resting);
  resting = setTimeout(async () => {
    const place = sheet.querySelector("[data-advice]");
    const answer = place && (await fetch(place.dataset.advice, { headers: { "x-fragment": "1" } }));
    if (answer?.ok && place.isConnected) place.innerHTML = await answer.text();
  }, after);
}

async function post(fields) {
  const answer = await fetch(sheet.dataset.sheet, {
    method: "POST",
    headers: { "x-fragment": "1" },
    body: new URLSearchParams(fields),
  });
  const to = answer.headers.get("x-go");
  if (to) {
    location.href = to;
    return;
  }
  if (answer.status === 422) {
    const { words, keys } = await answer.json();
    tell(words);
    for (const shape of shapes()) shape.classList.toggle("is-in-the-way", keys.includes(shape.dataset.copy));
    if (picked) settle(shapeOf(picked));
    return;
  }
  if (!answer.ok) {
    location.reload();
    return;
  }
  const focused = document.activeElement?.id;
  sheet.innerHTML = await answer.text();
  pick(shapeOf(picked) ? picked : "");
  advise(900);
  if (focused) document.getElementById(focused)?.focus();
}

// One change after the other, each from where the one before left the plate.
function send(make) {
  waiting = waiting.then(async () => {
    const fields = make();
    if (fields) await post(fields);
  }, () => location.reload());
  return waiting;
}

// Where a shape stood before it was dragged.
const homes = new WeakMap();

function settle(shape) {
  if (homes.has(shape)) shape.setAttribute("transform", homes.get(shape));
  shape?.classList.remove("is-moving");
}

function move(key, dx, dy, turn) {
  send(() => {
    const shape = shapeOf(key);
    if (!shape) return null;
    const x = Number(shape.dataset.x) + dx;
    const y = Number(shape.dataset.y) + dy;
    return { do: "move", key: numberOf(key), x: x.toFixed(4), y: y.toFixed(4), turn: Number(shape.dataset.turn) + turn };
  });
}

function point(event) {
  const svg = byHand();
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return [at.x, at.y];
}

function step(by) {
  const all = shapes().map((shape) => shape.dataset.copy);
  if (all.length === 0) return;
  const now = all.indexOf(picked);
  pick(all[(now + by + all.length + (now < 0 && by < 0 ? 1 : 0)) % all.length]);
}

if (sheet) {
  advise(50);
  sheet.addEventListener("pointerdown", (event) => {
    const shape = event.target.closest(".is-by-hand .plan [data-copy]");
    if (!shape || event.button !== 0) return;
    pick(shape.dataset.copy);
    if (shape.classList.contains("is-pinned")) return;
    if (!homes.has(shape)) homes.set(shape, shape.getAttribute("transform"));
    drag = { shape, from: point(event), by: [0, 0] };
    shape.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  sheet.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const [x, y] = point(event);
    drag.by = [x - drag.from[0], y - drag.from[1]];
    drag.shape.setAttribute("transform", `translate(${drag.by[0]} ${drag.by[1]}) ${homes.get(drag.shape)}`);
    drag.shape.classList.add("is-moving");
  });
  const drop = () => {
    if (!drag) return;
    const { shape, by } = drag;
    drag = null;
    if (Math.hypot(...by) < 1.5) return settle(shape);
    const scale = Number(byHand().dataset.scale);
    move(shape.dataset.copy, by[0] / scale, -by[1] / scale, 0);
  };
  sheet.addEventListener("pointerup", drop);
  sheet.addEventListener("pointercancel", () => {
    if (drag) settle(drag.shape);
    drag = null;
  });
  // Picked in the elevation or the bill as well as in the plan.
  sheet.addEventListener("click", (event) => {
    if (!byHand()) return;
    const drawn = event.target.closest(".elevation [data-copy]");
    const row = event.target.closest("tr[data-of]");
    if (drawn) pick(drawn.dataset.copy);
    else if (row) pick(row.dataset.of.split(" ")[0]);
  });
  sheet.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && byHand() && event.target.matches("tr[data-of]")) pick(event.target.dataset.of.split(" ")[0]);
  });
  sheet.addEventListener("change", (event) => {
    if (event.target.id === "picked") pick(event.target.value === "" ? "" : `s${event.target.value}`);
  });
  sheet.addEventListener("submit", (event) => {
    if (!byHand() || !event.target.action.endsWith("/change")) return;
    event.preventDefault();
    const fields = new FormData(event.target, event.submitter);
    send(() => fields);
  });

  const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  addEventListener("keydown", (event) => {
    if (!byHand() || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.closest("input, select, textarea, dialog")) return;
    const key = event.key;
    const lower = key.toLowerCase();
    if (key === "." || key === ",") step(key === "." ? 1 : -1);
    else if (lower === "u") send(() => ({ do: event.shiftKey ? "redo" : "undo" }));
    else if (picked === "") return;
    else if (arrows[key]) {
      const far = event.shiftKey ? FINE : STEP;
      move(picked, arrows[key][0] * far, arrows[key][1] * far, 0);
    } else if (lower === "r") move(picked, 0, 0, event.shiftKey ? -TURN : TURN);
    else if (lower === "p") {
      const pinned = shapeOf(picked)?.classList.contains("is-pinned");
      send(() => ({ do: pinned ? "free" : "pin", key: numberOf(picked) }));
    } else if (key === "Delete") send(() => ({ do: "remove", key: numberOf(picked) }));
    else if (key === "Escape") pick("");
    else return;
    event.preventDefault();
    event.stopPropagation();
  }, true);
}

// The first run: the browser says in which time zone it is, and the build volume is drawn as it is
// typed, to scale with a figure of 28 mm.
const form = document.querySelector("[data-start]");
const drawing = document.querySelector("[data-volume]");

const SLANT = [0.42, 0.3];
const FIGURE_MM = 28;

const points = (all) => `M${all.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" L")}`;

function draw() {
  const typed = ["width_mm", "depth_mm", "height_mm"].map((name) => Number(form.elements[name].value.replace(",", ".")));
  const given = typed.every((mm) => mm >= 10 && mm <= 2000);
  const [w, d, h] = given ? typed : [130, 80, 160];
  drawing.classList.toggle("is-guess", !given);
  const scale = Math.min(330 / (w + d * SLANT[0]), 240 / (h + d * SLANT[1]));
  const [left, floor] = [60, 272];
  const at = (x, y, z) => [left + (x + y * SLANT[0]) * scale, floor - (z + y * SLANT[1]) * scale];
  drawing.querySelector("[data-back]").setAttribute("d", `${points([at(0, d, 0), at(w, d, 0), at(w, d, h), at(0, d, h)])}z ${points([at(0, 0, 0), at(0, d, 0)])} ${points([at(w, 0, 0), at(w, d, 0)])} ${points([at(w, 0, h), at(w, d, h)])} ${points([at(0, 0, h), at(0, d, h)])}`);
  drawing.querySelector("[data-front]").setAttribute("d", `${points([at(0, 0, 0), at(w, 0, 0), at(w, 0, h), at(0, 0, h)])}z`);
  // A post with a head, as tall as a figure.
  const tall = FIGURE_MM * scale;
  const [x, y] = at(w / 2, d / 2, 0);
  const side = tall * 0.16;
  drawing.querySelector("[data-figure]").setAttribute("d", `${points([[x - side, y], [x - side, y - tall * 0.66], [x - side * 0.6, y - tall * 0.8], [x, y - tall], [x + side * 0.6, y - tall * 0.8], [x + side, y - tall * 0.66], [x + side, y]])}z`);
  const label = (name, words, [tx, ty]) => {
    const text = drawing.querySelector(`[data-${name}]`);
    text.textContent = given ? words : "";
    text.setAttribute("x", tx);
    text.setAttribute("y", ty);
  };
  const [fx, fy] = at(w / 2, 0, 0);
  label("width", `${w} mm`, [fx, fy + 18]);
  const [dx, dy] = at(w, d / 2, 0);
  label("depth", `${d} mm`, [dx + 8, dy + 6]);
  const [hx, hy] = at(0, 0, h / 2);
  label("height", `${h} mm`, [hx - 8, hy]);
}

if (form && drawing) {
  form.elements.time_zone.value = Intl.DateTimeFormat().resolvedOptions().timeZone ?? "";
  form.addEventListener("input", draw);
  draw();
}

// Files and whole folders may be dropped on the upload form as well as picked.
const meshes = /\.(stl|obj|3mf)$/i;

async function within(entry) {
  if (entry.isFile) return [await new Promise((done, failed) => entry.file(done, failed))];
  const reader = entry.createReader();
  const files = [];
  for (;;) {
    const some = await new Promise((done, failed) => reader.readEntries(done, failed));
    if (some.length === 0) return files;
    for (const inner of some) files.push(...(await within(inner)));
  }
}

async function dropped(transfer) {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.()).filter(Boolean);
  if (!entries.some((entry) => entry.isDirectory)) return transfer.files;
  const chosen = new DataTransfer();
  for (const entry of entries) {
    for (const file of await within(entry)) if (meshes.test(file.name)) chosen.items.add(file);
  }
  return chosen.files;
}

for (const form of document.querySelectorAll("[data-drop]")) {
  const input = form.querySelector("input[type=file]");
  const most = Number(form.dataset.mostBytes) || Infinity;
  const says = form.querySelector("[data-says]");
  const over = (on) => form.classList.toggle("is-over", on);
  form.addEventListener("dragover", (event) => {
    event.preventDefault();
    over(true);
  });
  form.addEventListener("dragleave", () => over(false));
  form.addEventListener("drop", async (event) => {
    event.preventDefault();
    over(false);
    input.files = await dropped(event.dataTransfer);
    if (input.files.length > 0) form.requestSubmit();
    else says.textContent = "There was no mesh file in it.";
  });
  form.addEventListener("submit", (event) => {
    const large = [...input.files].find((file) => file.size > most);
    if (large) {
      event.preventDefault();
      says.textContent = `${large.name} is larger than ${Math.floor(most / 1e6)} MB: reduce it first.`;
    } else {
      says.textContent = "Uploading…";
    }
  });
}

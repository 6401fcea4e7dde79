// Files and whole folders may be dropped on the upload form as well as picked. They go up one
// after the other, each with its progress and a way to cancel it.
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
  if (!entries.some((entry) => entry.isDirectory)) return [...transfer.files];
  const files = [];
  for (const entry of entries) files.push(...(await within(entry)));
  return files.filter((file) => meshes.test(file.name));
}

function row(list, file) {
  const item = document.createElement("li");
  const name = document.createElement("span");
  name.className = "name";
  name.textContent = file.name;
  const state = document.createElement("span");
  const bar = document.createElement("progress");
  bar.max = 100;
  bar.setAttribute("aria-label", file.name);
  const frame = document.createElement("span");
  frame.className = "bar";
  frame.append(bar);
  state.append(frame);
  const cancel = document.createElement("button");
  cancel.type = "button";
  cancel.className = "button slim";
  cancel.textContent = "Cancel";
  cancel.setAttribute("aria-label", `Cancel ${file.name}`);
  item.append(name, state, cancel);
  list.append(item);
  return {
    cancel,
    progress: (percent) => (bar.value = percent),
    end: (words) => {
      state.textContent = words;
      cancel.remove();
    },
  };
}

function send(file, address, shown) {
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    const end = (words, counts = {}) => {
      shown.end(words);
      done(counts);
    };
    request.open("POST", address);
    request.setRequestHeader("accept", "application/json");
    request.upload.addEventListener("progress", (event) => shown.progress((event.loaded / event.total) * 100));
    request.addEventListener("load", () => {
      if (request.status !== 200) return end("not taken");
      const counts = JSON.parse(request.responseText);
      end(counts.new ? "arrived" : counts.known ? "here already" : `refused: ${counts.why}`, counts);
    });
    request.addEventListener("error", () => end("broke off"));
    request.addEventListener("abort", () => end("cancelled"));
    shown.cancel.addEventListener("click", () => request.abort());
    const form = new FormData();
    form.append("files", file);
    request.send(form);
  });
}

async function upload(form, files) {
  const most = Number(form.dataset.mostBytes) || Infinity;
  const list = form.querySelector("[data-uploads]");
  const says = form.querySelector("[data-says]");
  const sum = { new: 0, known: 0, refused: 0 };
  const queue = files.map((file) => ({ file, shown: row(list, file), cancelled: false }));
  for (const entry of queue) entry.shown.cancel.addEventListener("click", () => (entry.cancelled = true));
  says.textContent = `Uploading ${files.length} files…`;
  for (const entry of queue) {
    if (entry.cancelled) {
      entry.shown.end("cancelled");
    } else if (entry.file.size > most) {
      entry.shown.end(`over ${Math.floor(most / 1e6)} MB`);
    } else {
      const counts = await send(entry.file, form.action, entry.shown);
      for (const key of Object.keys(sum)) sum[key] += counts[key] ?? 0;
    }
  }
  says.textContent = `${sum.new} arrived, ${sum.known} here already, ${sum.refused} refused.`;
  if (form.dataset.then) location.href = `${form.dataset.then}?new=${sum.new}&known=${sum.known}&refused=${sum.refused}`;
}

for (const form of document.querySelectorAll("[data-drop]")) {
  const input = form.querySelector("input[type=file]");
  const over = (on) => form.classList.toggle("is-over", on);
  form.addEventListener("dragover", (event) => {
    event.preventDefault();
    over(true);
  });
  form.addEventListener("dragleave", () => over(false));
  form.addEventListener("drop", async (event) => {
    event.preventDefault();
    over(false);
    const files = await dropped(event.dataTransfer);
    if (files.length > 0) upload(form, files);
    else form.querySelector("[data-says]").textContent = "There was no mesh file in it.";
  });
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const files = [...input.files];
    input.value = "";
    if (files.length > 0) upload(form, files);
  });
}

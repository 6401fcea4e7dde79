// Files may be dropped on the upload form as well as picked.
for (const form of document.querySelectorAll("[data-drop]")) {
  const input = form.querySelector("input[type=file]");
  const most = Number(form.dataset.mostBytes);
  const says = form.querySelector("[data-says]");
  const over = (on) => form.classList.toggle("is-over", on);
  form.addEventListener("dragover", (event) => {
    event.preventDefault();
    over(true);
  });
  form.addEventListener("dragleave", () => over(false));
  form.addEventListener("drop", (event) => {
    event.preventDefault();
    over(false);
    input.files = event.dataTransfer.files;
    form.requestSubmit();
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

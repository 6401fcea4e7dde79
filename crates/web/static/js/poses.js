// Moving a slider orders the sheet at once; without a script the button does.
for (const form of document.querySelectorAll("[data-weights]")) {
  let waiting;
  form.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(() => order(form), 200);
  });
}

async function order(form) {
  const address = `${form.action}?${new URLSearchParams(new FormData(form))}`;
  const answer = await fetch(address);
  if (!answer.ok) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const sheet = page.querySelector(".poses");
  if (sheet) document.querySelector(".poses").replaceWith(sheet);
  history.replaceState(null, "", address);
}

// Comfort on every page: the safelight switch, keys, the list of keys.
const root = document.documentElement;

for (const button of document.querySelectorAll("[data-theme-switch]")) {
  const show = () => {
    const lit = root.dataset.theme === "safelight";
    button.setAttribute("aria-pressed", String(lit));
  };
  button.hidden = false;
  button.addEventListener("click", () => {
    const next = root.dataset.theme === "safelight" ? "" : "safelight";
    if (next) root.dataset.theme = next;
    else delete root.dataset.theme;
    try {
      localStorage.setItem("theme", next);
    } catch {
      // Kept for this page only.
    }
    show();
  });
  show();
}

for (const button of document.querySelectorAll("[data-print]")) {
  button.hidden = false;
  button.addEventListener("click", () => print());
}

const typing = (target) => target.closest("input, select, textarea, dialog") !== null;

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const keys = document.getElementById("keys");
  if (event.key === "?" && keys) {
    keys.showModal();
    event.preventDefault();
    return;
  }
  const find = document.querySelector("[data-find]");
  if (event.key === "/" && find) {
    find.focus();
    event.preventDefault();
    return;
  }
  const link = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (link) {
    link.click();
    event.preventDefault();
  }
});

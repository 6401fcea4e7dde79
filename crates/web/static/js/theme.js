// Before the first paint: the theme this device chose.
try {
  const theme = localStorage.getItem("theme");
  if (theme) document.documentElement.dataset.theme = theme;
} catch {
  // Storage is switched off: paper it is.
}

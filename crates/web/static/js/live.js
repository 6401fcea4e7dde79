// Pieces of a page that change by themselves. One tab of the browser holds the stream of news
// (whoever has the lock) and passes it on to the others; a piece is fetched again when its topic
// is in the news. A piece says with data-open that something in it is still under way.
const pieces = [...document.querySelectorAll("[data-live]")];

const drawn = new WeakMap();

// What is being pressed, typed into or looked at with the keyboard is never taken from under a hand.
let pressed = false;
addEventListener("pointerdown", () => { pressed = true; }, true);
for (const end of ["pointerup", "pointercancel"]) addEventListener(end, () => setTimeout(() => { pressed = false; }, 60), true);

const isTyped = (element) => element?.matches("input:not([type=submit],[type=button],[type=checkbox],[type=radio]),textarea,select");

// What was typed and not sent yet would be gone with the page. What a script proposes is not typed.
const typed = new Set();
addEventListener("input", (event) => typed.add(event.target), true);
const typing = () => isTyped(document.activeElement) || [...typed].some((field) => field.isConnected && isTyped(field) && field.value !== field.defaultValue);

// A page that answers a form would send that again: such a piece says where the page is found.
// Where time runs fast what a page came again for may be old once more: it stays for a few seconds.
const STAYS = 5000;
const hurried = () => performance.getEntriesByType("navigation")[0]?.type === "reload" && performance.now() < STAYS;

function reload(piece) {
  if (hurried()) setTimeout(() => reload(piece), STAYS - performance.now());
  else if (typing()) setTimeout(() => reload(piece), 500);
  else if (piece.dataset.at) location.replace(piece.dataset.at);
  else location.reload();
}

// The same control in the piece as it is drawn anew: by its name and place, else by its words.
function address(element) {
  const form = element.closest("form")?.getAttribute("action") ?? "";
  const own = element.id || element.getAttribute("name") || element.getAttribute("href") || element.textContent.trim();
  return [element.tagName, form, own, element.value ?? ""].join(" ");
}

// Forms carry another key every time they are drawn: that alone is nothing new.
const withoutKeys = (words) => words.replaceAll(/name="once" value="[^"]*"/g, "").replaceAll(/once=[0-9a-f-]+"/g, '"');

// Puts new words into a piece; says no while a hand is on it.
function put(piece, words) {
  const bare = withoutKeys(words);
  if (drawn.get(piece) === bare) return true;
  const focused = piece.contains(document.activeElement) ? document.activeElement : null;
  if (pressed || (focused && isTyped(focused))) return false;
  const at = focused && address(focused);
  const opened = [...piece.querySelectorAll("details[open] > summary")].map((summary) => summary.textContent);
  piece.innerHTML = words;
  drawn.set(piece, bare);
  for (const summary of piece.querySelectorAll("details > summary")) {
    if (opened.includes(summary.textContent)) summary.parentElement.open = true;
  }
  if (at) [...piece.querySelectorAll("a,button,summary,input")].find((element) => address(element) === at)?.focus({ preventScroll: true });
  return true;
}

function refresher(piece) {
  let running = false;
  let again = false;
  return async function refresh() {
    if (running || document.hidden) {
      again = true;
      return;
    }
    running = true;
    again = false;
    try {
      const answer = await fetch(piece.dataset.live, { headers: { "x-fragment": "1" } });
      if (answer.ok && !put(piece, await answer.text())) again = true;
      // Some pieces only tell how far the work is: what came of it is another page.
      if (answer.ok && piece.dataset.then === "reload" && !piece.querySelector("[data-open]")) reload(piece);
    } catch {
      again = true;
    }
    running = false;
    if (again && !document.hidden) setTimeout(refresh, 250);
  };
}

if (pieces.length > 0) {
  const refreshers = pieces.map((piece) => ({ piece, refresh: refresher(piece) }));
  const hear = (topic) => {
    for (const { piece, refresh } of refreshers) {
      if (topic === "hello" || piece.dataset.topic.split(" ").includes(topic)) refresh();
    }
  };
  const channel = new BroadcastChannel("wembrit-news");
  channel.addEventListener("message", (event) => hear(event.data));
  // The lock is held as long as the tab lives; then another tab takes over.
  const listen = (pass) => {
    const stream = new EventSource("/events");
    stream.addEventListener("news", (event) => {
      pass(event.data);
      hear(event.data);
    });
  };
  // Over a plain network there are no locks: the tab that is looked at listens for itself.
  if (navigator.locks) {
    navigator.locks.request("wembrit-news", () => {
      listen((topic) => channel.postMessage(topic));
      return new Promise(() => {});
    });
  } else {
    listen(() => {});
  }
  document.addEventListener("visibilitychange", () => hear("hello"));
  // Between drawing the page and listening something may have happened; and news may be lost.
  const open = () => refreshers.filter(({ piece }) => piece.querySelector("[data-open]"));
  for (const { refresh } of open()) refresh();
  // Some pieces are left out of the page, because they take a moment.
  for (const { piece, refresh } of refreshers) if ("first" in piece.dataset) refresh();
  setInterval(() => open().forEach(({ refresh }) => refresh()), 4000);
}

// Pieces of a page that change by themselves. One tab of the browser holds the stream of news
// (whoever has the lock) and passes it on to the others; a piece is fetched again when its topic
// is in the news. A piece says with data-open that something in it is still under way.
const pieces = [...document.querySelectorAll("[data-live]")];

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
      if (answer.ok) piece.innerHTML = await answer.text();
      // Some pieces only tell how far the work is: what came of it is another page.
      if (answer.ok && piece.dataset.then === "reload" && !piece.querySelector("[data-open]")) location.reload();
    } catch {
      again = true;
    }
    running = false;
    if (again && !document.hidden) setTimeout(refresh, 150);
  };
}

if (pieces.length > 0) {
  const refreshers = pieces.map((piece) => ({ piece, refresh: refresher(piece) }));
  const hear = (topic) => {
    for (const { piece, refresh } of refreshers) {
      if (topic === "hello" || topic === piece.dataset.topic) refresh();
    }
  };
  const channel = new BroadcastChannel("wembrit-news");
  channel.addEventListener("message", (event) => hear(event.data));
  // The lock is held as long as the tab lives; then another tab takes over.
  navigator.locks.request("wembrit-news", () => {
    const stream = new EventSource("/events");
    stream.addEventListener("news", (event) => {
      channel.postMessage(event.data);
      hear(event.data);
    });
    return new Promise(() => {});
  });
  document.addEventListener("visibilitychange", () => hear("hello"));
  // Between drawing the page and listening something may have happened; and news may be lost.
  const open = () => refreshers.filter(({ piece }) => piece.querySelector("[data-open]"));
  for (const { refresh } of open()) refresh();
  // Some pieces are left out of the page, because they take a moment.
  for (const { piece, refresh } of refreshers) if ("first" in piece.dataset) refresh();
  setInterval(() => open().forEach(({ refresh }) => refresh()), 4000);
}

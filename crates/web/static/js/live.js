// While work is under way, the marked piece of the page is fetched again until it says that
// nothing is open any more.
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

async function follow(piece) {
  while (piece.isConnected && piece.querySelector("[data-open]")) {
    await pause(600);
    if (document.hidden) continue;
    try {
      const answer = await fetch(piece.dataset.live, { headers: { "x-fragment": "1" } });
      if (!answer.ok) continue;
      const focused = piece.contains(document.activeElement);
      if (!focused) piece.innerHTML = await answer.text();
    } catch {
      await pause(3000);
    }
  }
  // Some pieces only tell how far the work is: what came of it is another page.
  if (piece.dataset.then === "reload") location.reload();
}

export function followAll() {
  for (const piece of document.querySelectorAll("[data-live]")) follow(piece);
}

followAll();

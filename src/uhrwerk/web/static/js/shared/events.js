// The stream of what happens on the server, one for the page. Whoever waits for news of a kind reads again when it comes; where the
// stream breaks, the browser opens it again, and all who wait read again, as they may have missed some.
const AGAIN = 3000; // ms after which a stream that was refused is opened again
let waiting = new Map(); // kind -> those who wait for it
let source = null;

function wake(kind) {
  const some = waiting.get(kind) || [];
  waiting.delete(kind);
  for (const done of some) done();
}

function wakeAll() {
  const all = waiting;
  waiting = new Map();
  for (const some of all.values()) for (const done of some) done();
}

// The next event of a kind; ask for it before reading, so that none falls between.
export const next = (kind) => new Promise((done) => waiting.set(kind, [...(waiting.get(kind) || []), done]));

// `heard[kind]` is called with the data of each event. A page that nobody sees has no stream: a browser opens few at once.
export function listen(path, kinds, heard = {}) {
  const open = () => {
    source?.close();
    source = new EventSource(path);
    source.onopen = wakeAll;
    source.onerror = () => {
      wakeAll(); // who waits reads, and says what is wrong
      if (source.readyState === EventSource.CLOSED) setTimeout(open, AGAIN);
    };
    for (const kind of kinds)
      source.addEventListener(kind, (event) => {
        heard[kind]?.(JSON.parse(event.data));
        wake(kind);
      });
  };
  document.addEventListener("visibilitychange", () => {
    if (document.hidden) source?.close();
    else open();
  });
  open();
}

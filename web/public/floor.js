/* global self, URL, caches, fetch, Response */
// Keeps the page of a sheet, and what it is built of, for a place without a network. Answers are not its business: the page keeps those itself.
const STORE = "floor-1";
self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  const page = event.request.mode === "navigate" && /^\/d\/[^/]+\/sheet\//.test(url.pathname);
  if (event.request.method !== "GET" || url.origin !== self.location.origin || !(page || url.pathname.startsWith("/assets/"))) return;
  event.respondWith(
    (async () => {
      const store = await caches.open(STORE);
      const known = page ? "/d/sheet" : event.request;
      try {
        const answer = await fetch(event.request);
        if (answer.ok) await store.put(known, answer.clone());
        return answer;
      } catch {
        return (await store.match(known)) ?? Response.error();
      }
    })(),
  );
});

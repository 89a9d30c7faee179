// Kept by the browser: where the server cannot be reached, a page of the bench is answered by the offline page. Nothing
// that needs a sign-in is kept.
const STORE = "brunt-offline-1";
const PAGE = "/offline/";

self.addEventListener("install", (event) => {
  event.waitUntil(
    (async () => {
      const answer = await fetch(PAGE, { cache: "no-store" });
      const text = await answer.clone().text();
      const store = await caches.open(STORE);
      await store.put(PAGE, answer);
      const parts = [...text.matchAll(/(?:href|src)="(\/static\/[^"]+)"/g)].map((m) => m[1]);
      await store.addAll(parts);
      await self.skipWaiting();
    })(),
  );
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name !== STORE) await caches.delete(name);
      await self.clients.claim();
    })(),
  );
});

async function orKept(request, kept) {
  try {
    return await fetch(request);
  } catch {
    return (await caches.match(kept)) ?? Response.error();
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  if (request.method !== "GET") return;
  if (request.mode === "navigate") event.respondWith(orKept(request, PAGE));
  else if (new URL(request.url).pathname.startsWith("/static/")) event.respondWith(orKept(request, request));
});

{% load static %}"use strict";
// Keeps what a crew needs without a signal: pages of the opened job, and what they are drawn with.
importScripts("{% static 'vendor/workbox/worker.js' %}");
const { CacheFirst, NetworkFirst, registerRoute, setCatchHandler, ExpirationPlugin, CacheableResponsePlugin, clientsClaim } = self.cantrelWorkbox;
const PAGES = "cantrel-pages";
const STATIC = "cantrel-static";
const KEPT = /^\/jobs\/\d+\/(day\/|trees\/\d+\/(crew\/|brief\/|record\/))/;
self.skipWaiting();
clientsClaim();

// A page somebody was sent to the sign-in from is not that page.
const itself = { cacheWillUpdate: async ({ response }) => (response.redirected ? null : response) };
const good = new CacheableResponsePlugin({ statuses: [200] });

registerRoute(
  ({ url }) => url.origin === self.location.origin && url.pathname.startsWith("/static/"),
  new CacheFirst({ cacheName: STATIC, plugins: [good, new ExpirationPlugin({ maxEntries: 200 })] }),
);
registerRoute(
  ({ url, request }) => request.mode === "navigate" && KEPT.test(url.pathname),
  new NetworkFirst({ cacheName: PAGES, networkTimeoutSeconds: 5, plugins: [good, itself] }),
);
setCatchHandler(async ({ request }) => {
  const kept = request.mode === "navigate" && (await caches.match(request, { cacheName: PAGES, ignoreSearch: true }));
  return kept || Response.error();
});

// A page asks to keep addresses: each is fetched anew, and told when it is there.
self.addEventListener("message", (event) => {
  const { keep, forget } = event.data || {};
  if (forget) event.waitUntil(caches.delete(PAGES));
  if (keep) event.waitUntil(keepAll(keep, event.source));
});

async function keepAll(addresses, page) {
  const cache = await caches.open(PAGES);
  let there = 0;
  for (const address of addresses) {
    try {
      const answer = await fetch(address, { credentials: "same-origin" });
      if (answer.ok && !answer.redirected) {
        const text = await answer.clone().text();
        await cache.put(address, answer);
        await keepStatic(text);
      }
    } catch {
      // No signal: what is there from before stays.
    }
    if (await cache.match(address)) there += 1;
    page.postMessage({ kept: there, of: addresses.length });
  }
}

async function keepStatic(text) {
  const cache = await caches.open(STATIC);
  const found = new Set([...text.matchAll(/"(\/static\/[^"?#]+)/g)].map((match) => match[1]));
  for (const address of found) {
    if (!(await cache.match(address))) await cache.add(address).catch(() => {});
  }
}

{% load static %}/* Stands between the pages and the shop: the last pages of units open without a connection, as they were. */
"use strict";
importScripts(
  "{% static 'vendor/workbox/workbox-core.prod.js' %}",
  "{% static 'vendor/workbox/workbox-routing.prod.js' %}",
  "{% static 'vendor/workbox/workbox-strategies.prod.js' %}",
  "{% static 'vendor/workbox/workbox-expiration.prod.js' %}",
  "{% static 'vendor/workbox/workbox-cacheable-response.prod.js' %}",
);
const { registerRoute } = workbox.routing;
const { NetworkFirst, NetworkOnly } = workbox.strategies;
const { ExpirationPlugin } = workbox.expiration;
const { CacheableResponsePlugin } = workbox.cacheableResponse;
const TOLD = {{ told|safe }};
const PAGES = "pages",
  PATIENCE_S = 8; // until a page that is kept is shown in the place of one that does not come

/* A page says itself that it is not of now. */
const asKept = async (page) =>
  new Response((await page.text()).replace("<body ", "<body data-kept "), {
    headers: { "Content-Type": "text/html; charset=utf-8" },
  });
/* The label of a unit was scanned: its page, if any of them is kept; the one that was looked at last. */
const scanned = async ({ url }) => {
  const asked = new URL(url);
  const number = asked.pathname === TOLD.find && /^W-?0*(\d+)/i.exec(asked.searchParams.get("q"))?.[1];
  if (!number) return null;
  const kept = await (await caches.open(PAGES)).keys();
  const found = kept.findLast((page) => new URL(page.url).pathname.endsWith(`/W-${number}/`));
  return found ? Response.redirect(found.url) : null;
};
const inItsPlace = async ({ request }) => {
  const unit = await scanned(request);
  if (unit) return unit;
  const page =
    (await caches.match(request, { cacheName: PAGES, ignoreSearch: true })) ??
    (await caches.match(TOLD.away, { cacheName: PAGES }));
  return page && asKept(page);
};
const onlyPages = async ({ response }) =>
  !response.redirected && response.headers.get("Content-Type")?.startsWith("text/html") ? response : null;

registerRoute(
  ({ request, url }) => request.mode === "navigate" && TOLD.pages.some((page) => url.pathname.startsWith(page)),
  new NetworkFirst({
    cacheName: PAGES,
    networkTimeoutSeconds: PATIENCE_S,
    plugins: [
      new CacheableResponsePlugin({ statuses: [200] }),
      new ExpirationPlugin({ maxEntries: TOLD.mostPages, purgeOnQuotaError: true }),
      {
        cacheWillUpdate: onlyPages,
        cachedResponseWillBeUsed: async ({ cachedResponse }) => cachedResponse && asKept(cachedResponse),
        handlerDidError: inItsPlace,
      },
    ],
  }),
);
registerRoute(
  ({ request }) => request.mode === "navigate",
  new NetworkOnly({ plugins: [{ handlerDidError: inItsPlace }] }),
);
registerRoute(
  ({ url, sameOrigin }) => sameOrigin && url.pathname.startsWith(TOLD.things),
  new NetworkFirst({
    cacheName: "things",
    plugins: [new ExpirationPlugin({ maxEntries: TOLD.mostThings, purgeOnQuotaError: true })],
  }),
);

self.addEventListener("install", () => self.skipWaiting());
workbox.core.clientsClaim();

// What of workbox the service worker uses, as one file.
import { CacheFirst, NetworkFirst } from "workbox-strategies";
import { registerRoute, setCatchHandler } from "workbox-routing";
import { ExpirationPlugin } from "workbox-expiration";
import { CacheableResponsePlugin } from "workbox-cacheable-response";
import { clientsClaim } from "workbox-core";

self.cantrelWorkbox = {
  CacheFirst,
  NetworkFirst,
  registerRoute,
  setCatchHandler,
  ExpirationPlugin,
  CacheableResponsePlugin,
  clientsClaim,
};

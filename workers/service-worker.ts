import { type PrecacheEntry, Serwist } from "serwist";

declare const self: { __SW_MANIFEST: (PrecacheEntry | string)[] };

/**
 * Keeps the pages of the field on the phone, whole and of one version: they open from there with or without a connection. What people enter and read is never its business:
 * that stands in the phone's own database.
 */
new Serwist({
  precacheEntries: self.__SW_MANIFEST,
  precacheOptions: {
    cleanupOutdatedCaches: true,
    // Where somebody is in the field stands in the query; the page is the same.
    ignoreURLParametersMatching: [/./],
  },
  skipWaiting: true,
  clientsClaim: true,
}).addEventListeners();

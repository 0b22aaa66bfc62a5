import type { Device, SiteFile } from "./schema.ts";

/** What of a device is of the very one that stands there: who found and proved it, its serial number. */
function withoutHistory<D extends Device>(device: D): D {
  const {
    checks: _c,
    provings: _p,
    serial: _s,
    ...rest
  } = device as D & { checks?: unknown; provings?: unknown; serial?: unknown };
  return rest as unknown as D;
}

/** What of an element is of the very one: what was kept of it, and that it is locked out. */
function fresh<E extends { files?: unknown; lockedOut?: unknown }>(element: E): Omit<E, "files" | "lockedOut"> {
  const { files: _f, lockedOut: _l, ...rest } = element;
  return rest;
}

/**
 * A site to begin another from: its pieces, programs and limits, without its history, serial numbers and learned figures (handbook#15-days). What was read, proved, repaired, held or locked out there is
 * not so here.
 *
 * @param of id, name and time zone of the new site
 */
export function patternOf(site: SiteFile, of: { id: string; name: string; timeZone: string }): SiteFile {
  const { holdUntil: _h, weatherPercents: _w, files: _sf, latitudeDeg: _la, longitudeDeg: _lo, ...about } = site.site;
  const { wireReadings: _r, tray: _t, setRatios: _s, files: _f, plans: _p, ...rest } = site;
  return {
    ...rest,
    site: { ...about, ...of },
    sources: site.sources.map(fresh),
    pocs: site.pocs.map((p) => ({ ...fresh(p), devices: p.devices.map(withoutHistory) })),
    mainlines: site.mainlines.map((m) => ({
      ...fresh(m),
      pipes: m.pipes.map(withoutHistory),
      ...(m.devices ? { devices: m.devices.map(withoutHistory) } : {}),
    })),
    controllers: site.controllers.map(fresh),
    stations: site.stations.map((s) => {
      const { learned: _l, serial: _n, repairedAt: _p, expectedSince: _e, expectedFrom, ...kept } = s;
      // A choice of the learned figure says nothing where none is learned.
      return { ...fresh(kept), ...(expectedFrom && expectedFrom !== "learned" ? { expectedFrom } : {}) };
    }),
    programs: site.programs.map(({ holdUntil: _p, ...p }) => fresh(p)),
    ...(site.weatherInputs
      ? { weatherInputs: site.weatherInputs.map(({ readings: _x, bypassed: _b, ...input }) => input) }
      : {}),
  };
}

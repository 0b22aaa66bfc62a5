/** The demo site that the simulated field gateway plays, and where bin/start lets it speak. */
export const DEMO_GATEWAY = { siteFileId: "tidewell-meadow", url: "mqtt://127.0.0.1:18830" } as const;

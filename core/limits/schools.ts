import type { Policy, SiteFile } from "../site-file/schema.ts";

/** Schools that disagree, as starting points; any figure can be changed (handbook#8-limits). */
export type School = {
  id: string;
  name: string;
  suits: string;
  policy: Partial<Policy> &
    Pick<Policy, "basis" | "highPercent" | "lowPercent" | "persistenceS" | "highResponse" | "lowResponse">;
};

export const SCHOOLS: School[] = [
  {
    id: "watchful",
    name: "Watchful",
    suits: "steady municipal pressure",
    policy: {
      basis: "station",
      highPercent: 20,
      lowPercent: 25,
      persistenceS: 60,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
      retest: false,
    },
  },
  {
    id: "steady",
    name: "Steady",
    suits: "most sites",
    policy: {
      basis: "station",
      highPercent: 25,
      lowPercent: 30,
      persistenceS: 120,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
      retest: false,
    },
  },
  {
    id: "forgiving",
    name: "Forgiving",
    suits: "wells and long mains",
    policy: {
      basis: "station",
      highPercent: 40,
      lowPercent: 45,
      persistenceS: 180,
      highResponse: "findAndIsolate",
      lowResponse: "notify",
      retest: true,
    },
  },
  {
    id: "graded",
    name: "Graded",
    suits: "many stations together, steady flow",
    policy: {
      basis: "graded",
      highPercent: 40,
      lowPercent: 40,
      persistenceS: 90,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
      retest: false,
      bands: [
        { fromLpm: 0, percent: 40 },
        { fromLpm: 60, percent: 30 },
        { fromLpm: 150, percent: 20 },
        { fromLpm: 400, percent: 12 },
      ],
    },
  },
  {
    id: "observe",
    name: "Observe",
    suits: "the first two weeks on a new site",
    policy: {
      basis: "station",
      highPercent: 20,
      lowPercent: 25,
      persistenceS: 60,
      highResponse: "notify",
      lowResponse: "notify",
      retest: false,
    },
  },
];

/** A starting point put into the site's policy: its figures, the site's waits. */
export function policyFrom(site: SiteFile, school: School): Policy {
  const { bands: _, ...rest } = site.policy;
  return { ...rest, ...school.policy, preset: school.id };
}

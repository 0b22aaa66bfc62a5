/**
 * The arrows of the house (README, docs/decisions/0010-the-house.md): each room lists the rooms and packages that it may import. All else is refused.
 * testing/arrows.test.ts plants a breach of every rule and sees it caught.
 */
const TESTS = "\\.test\\.tsx?$";

/** What each room may import: rooms (folders of the project, itself always) and packages. */
const ROOMS = {
  core: { rooms: [], packages: ["zod", "temporal-polyfill", "epanet-js", "papaparse", "ical-generator"] },
  contracts: { rooms: ["core"], packages: ["zod"] },
  messages: { rooms: ["contracts", "core"], packages: [] },
  paper: {
    rooms: ["contracts", "core", "messages"],
    packages: ["@react-pdf/renderer", "elkjs", "react", "use-intl"],
    node: true,
  },
  server: {
    rooms: ["contracts", "core", "paper"],
    packages: [
      "@node-rs/argon2",
      "ical-generator",
      "iron-session",
      "knex",
      "mqtt",
      "next",
      "nodemailer",
      "pg",
      "otpauth",
      "pg-boss",
      "pino",
      "piscina",
      "prom-client",
      "rate-limiter-flexible",
      "tsx",
      "zod",
    ],
    node: true,
  },
  workers: { rooms: ["core"], packages: ["comlink", "elkjs", "pdfjs-dist", "serwist"] },
  cli: { rooms: ["core"], packages: ["zod"], node: true },
  gateway: { rooms: ["core"], packages: ["aedes", "mqtt", "zod"], node: true },
  catcher: { rooms: ["core"], packages: ["mailparser", "smtp-server"], node: true },
  components: {
    rooms: ["contracts", "core", "messages"],
    packages: [
      "@dnd-kit/core",
      "@dnd-kit/sortable",
      "@dnd-kit/utilities",
      "@hookform/resolvers",
      "@tanstack/react-query",
      "@tanstack/react-table",
      "@tanstack/react-virtual",
      "@xyflow/react",
      "chart.js",
      "cmdk",
      "comlink",
      "date-fns",
      "elkjs",
      "idb",
      "immer",
      "lucide-react",
      "next",
      "next-intl",
      "papaparse",
      "pdfjs-dist",
      "react",
      "qrcode.react",
      "react-day-picker",
      "react-dom",
      "react-hook-form",
      "sonner",
      "tailwind-merge",
      "write-excel-file",
      "zod",
      "zundo",
      "zustand",
    ],
  },
  app: {
    rooms: ["components", "server", "contracts", "core"],
    packages: ["next", "react", "zod", "@fontsource/barlow-semi-condensed"],
  },
};

const roomRules = Object.entries(ROOMS).flatMap(([room, { rooms, packages, node }]) => {
  const allowed = [room, ...rooms].map((r) => `^${r}/`);
  const names = packages.map((p) => `^node_modules/(@types/)?${p.replace("/", "\\/")}/`);
  return [
    {
      name: `${room}-rooms`,
      comment: `${room}/ may import ${[room, ...rooms].join(", ")} and nothing else of the project`,
      severity: "error",
      from: { path: `^${room}/`, pathNot: TESTS },
      to: {
        path: "^(app|components|contracts|core|messages|paper|server|workers|cli|gateway|catcher|testing|tools|e2e)/",
        // A worker's file is named where it is started, and its calls are typed: nothing of it runs here.
        pathNot: room === "components" ? [...allowed, "^workers/[a-z-]+\\.worker\\.ts$"] : allowed,
      },
    },
    {
      name: `${room}-packages`,
      comment: `${room}/ may import these packages: ${packages.join(", ") || "none"}`,
      severity: "error",
      from: { path: `^${room}/`, pathNot: TESTS },
      to: { path: "node_modules/", pathNot: names },
    },
    ...(node
      ? []
      : [
          {
            name: `${room}-no-node`,
            comment: `${room}/ runs without Node's own modules`,
            severity: "error",
            from: { path: `^${room}/`, pathNot: TESTS },
            to: { dependencyTypes: ["core"] },
          },
        ]),
  ];
});

/** @type {import("dependency-cruiser").IConfiguration} */
export default {
  forbidden: [
    ...roomRules,
    {
      name: "no-cycles",
      comment: "no file imports itself by way of others, types included",
      severity: "error",
      from: { pathNot: TESTS },
      to: { circular: true },
    },
    {
      name: "app-never-around-services",
      comment:
        "a route parses, checks the right and calls a service: never the database, a job or a live channel itself",
      severity: "error",
      from: { path: "^app/" },
      to: { path: "^server/(db|jobs|field)/" },
    },
    {
      name: "knex-only-in-db",
      comment: "queries are written in server/db (and migrations), behind repositories",
      severity: "error",
      from: { path: "^server/", pathNot: ["^server/db/", TESTS] },
      to: { path: "node_modules/(knex|pg)/" },
    },
    {
      name: "db-knows-no-services",
      severity: "error",
      comment: "a repository is called by services, never the other way",
      from: { path: "^server/db/", pathNot: TESTS },
      to: { path: "^server/(services|auth|jobs|live|field)/" },
    },
    {
      name: "kit-stands-alone",
      severity: "error",
      comment: "the kit knows no screen, no draft and no query",
      from: { path: "^components/kit/", pathNot: TESTS },
      to: { path: "^components/", pathNot: "^components/kit/" },
    },
    {
      name: "nothing-imports-tests",
      severity: "error",
      comment: "what ships never needs a test's help",
      from: { path: "^(app|components|contracts|core|messages|paper|server|workers|cli|gateway)/", pathNot: TESTS },
      to: { path: "(^testing/|^e2e/|\\.test\\.tsx?$)" },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "^(\\.next|\\.presa)/" },
    babelConfig: { fileName: "tools/arrows.babel.cjs" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: { exportsFields: ["exports"], conditionNames: ["import", "types", "default"] },
  },
};

/** What may import what: downward only. */
const tests = "\\.test\\.tsx?$";

/** The folders of the core: each uses only those before it. */
const coreFolders = [
  "collections",
  "address",
  "plan",
  "network",
  "routes",
  "walk",
  "settle",
  "timeline",
  "words",
  "failures",
  "reachability",
  "scenario",
  "expectations",
  "reports",
  "impact",
  "remedies",
  "findings",
  "authoring",
  "steps",
];

const coreDownward = coreFolders.map((folder, at) => ({
  name: `core-downward-${folder}`,
  severity: "error",
  from: { path: `^core/${folder}/`, pathNot: tests },
  to: { path: `^core/(?!(${coreFolders.slice(0, at + 1).join("|")})/)` },
}));

module.exports = {
  forbidden: [
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
    {
      name: "core-stands-alone",
      comment: "core/ imports nothing of ours, and only Zod and a cache from outside.",
      severity: "error",
      from: { path: "^core/", pathNot: tests },
      to: { pathNot: "^(core/|node_modules/(zod|lru-cache)/)" },
    },
    {
      name: "exchange-over-core",
      severity: "error",
      from: { path: "^exchange/", pathNot: tests },
      to: { path: "^(cli|server|app|db|demo|bench|live|lab)/" },
    },
    {
      name: "cli-over-exchange-and-core",
      severity: "error",
      from: { path: "^cli/", pathNot: tests },
      to: { path: "^(server|app|bench)/" },
    },
    {
      name: "server-computes-no-routes",
      comment:
        "server/ keeps plans; of the core it may use the document, addresses and nothing that computes.",
      severity: "error",
      from: { path: "^server/", pathNot: tests },
      to: { path: "^(app/|cli/|core/(?!plan/|address/))" },
    },
    {
      name: "live-over-exchange-and-core",
      comment: "Asking devices knows no database and no page.",
      severity: "error",
      from: { path: "^live/", pathNot: tests },
      to: { path: "^(app|cli|server|worker|bench|lab)/" },
    },
    {
      name: "stand-ins-over-live-exchange-and-core",
      severity: "error",
      from: { path: "^stand-ins/", pathNot: tests },
      to: { path: "^(app|cli|server|worker|bench|lab)/" },
    },
    {
      name: "lab-over-exchange-and-core",
      severity: "error",
      from: { path: "^lab/", pathNot: tests },
      to: { path: "^(app|cli|server|worker|bench|live)/" },
    },
    {
      name: "worker-over-server-and-core",
      severity: "error",
      from: { path: "^worker/", pathNot: tests },
      to: { path: "^(app|cli|bench)/" },
    },
    {
      name: "queries-and-drawings-know-no-page",
      comment: "What is asked and drawn is told apart from how it is shown.",
      severity: "error",
      from: { path: "^app/(queries|drawing)/", pathNot: tests },
      to: { path: "^app/(features|routes|plan|engine|ui)/" },
    },
    {
      name: "pages-ask-and-do-not-answer",
      comment:
        "What answers, with the engine behind it, is loaded by workers and the server; a page knows its types.",
      severity: "error",
      from: {
        path: "^app/(features|ui|plan|search|drawing)/|^app/engine/(asking|.*\\.client)\\.ts$",
        pathNot: `${tests}|\\.server\\.tsx?$`,
      },
      to: { path: "^app/queries/(?!slow-asks|packed-frame)", dependencyTypesNot: ["type-only"] },
    },
    {
      name: "search-knows-no-page",
      comment: "What an address says is read and written without knowing any page.",
      severity: "error",
      from: { path: "^app/search/", pathNot: tests },
      to: { path: "^app/(features|routes|plan|engine|ui)/" },
    },
    {
      name: "ui-knows-no-feature",
      severity: "error",
      from: { path: "^app/ui/", pathNot: tests },
      to: { path: "^(app/(features|routes|plan|engine|queries)|server|exchange)/" },
    },
    {
      name: "the-open-plan-knows-no-feature",
      severity: "error",
      from: { path: "^app/(plan|engine|api)/", pathNot: tests },
      to: { path: "^app/features/" },
    },
    {
      name: "features-not-into-each-other",
      comment: "What two tasks share belongs in app/plan or app/ui.",
      severity: "error",
      from: { path: "^app/features/([^/]+)/", pathNot: tests },
      to: { path: "^app/features/", pathNot: "^app/features/$1/" },
    },
    ...coreDownward,
    {
      name: "no-tests-in-the-product",
      severity: "error",
      from: { path: "^(core|exchange|live|lab|stand-ins|cli|server|worker|app)/", pathNot: tests },
      to: { path: "^tests/" },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "(\\+types/|\\.css$)" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: { extensions: [".ts", ".tsx", ".mjs", ".js"] },
  },
};

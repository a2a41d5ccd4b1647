/** What may import what: downward only. */
const tests = "\\.test\\.tsx?$";

module.exports = {
  forbidden: [
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
    {
      name: "core-stands-alone",
      comment: "core/ imports nothing of ours, and only Zod from outside.",
      severity: "error",
      from: { path: "^core/", pathNot: tests },
      to: { pathNot: "^(core/|node_modules/zod/)" },
    },
    {
      name: "exchange-over-core",
      severity: "error",
      from: { path: "^exchange/", pathNot: tests },
      to: { path: "^(cli|server|app|db|demo|bench)/" },
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
      name: "worker-over-server-and-core",
      severity: "error",
      from: { path: "^worker/", pathNot: tests },
      to: { path: "^(app|cli|exchange|bench)/" },
    },
    {
      name: "drawings-and-answers-know-no-views",
      severity: "error",
      from: { path: "^app/(answers|drawing|workers)/", pathNot: tests },
      to: { path: "^app/(views|routes|ui)/" },
    },
    {
      name: "no-tests-in-the-product",
      severity: "error",
      from: { path: "^(core|exchange|cli|server|worker|app)/", pathNot: tests },
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

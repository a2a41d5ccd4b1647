import type { Config } from "@react-router/dev/config";

export default {
  appDirectory: "app",
  ssr: true,
  // Every route is known from the start: no form waits for the server to be asked where it leads.
  routeDiscovery: { mode: "initial" },
} satisfies Config;

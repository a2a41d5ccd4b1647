import type { RequestHandler } from "express";
import { collectDefaultMetrics, Gauge, Histogram, type OpenMetricsContentType, Registry } from "prom-client";
import type { Dispatch } from "./dispatch.ts";

/** What can be measured of the application, in OpenMetrics. */
export function metricsOf(dispatch: Dispatch): { observe: RequestHandler; tell: RequestHandler } {
  const registry = new Registry<OpenMetricsContentType>();
  registry.setContentType(Registry.OPENMETRICS_CONTENT_TYPE);
  collectDefaultMetrics({ register: registry });
  const duration = new Histogram({
    name: "http_request_duration_seconds",
    help: "How long requests took to answer",
    labelNames: ["method", "status"],
    buckets: [0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30],
    registers: [registry],
  });
  const requests = new Gauge({
    name: "requests_in_lane",
    help: "Requests that wait or are at work, by lane",
    labelNames: ["lane", "state"],
    registers: [registry],
    collect() {
      for (const [lane, load] of Object.entries(dispatch.load))
        for (const [state, count] of Object.entries(load)) requests.set({ lane, state }, count);
    },
  });
  return {
    observe: (req, res, next) => {
      const end = duration.startTimer({ method: req.method });
      res.on("finish", () => end({ status: String(res.statusCode) }));
      next();
    },
    tell: async (_req, res) => {
      res.set("Content-Type", registry.contentType).send(await registry.metrics());
    },
  };
}

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createMemoryRouter, RouterProvider } from "react-router";
import { OpenPlanProvider } from "../../app/plan/open-plan.tsx";
import { answer } from "../../app/queries/answer.ts";
import { viewOf } from "../../app/search/view.ts";
import { TooltipProvider } from "../../app/ui/tooltip.tsx";
import type { Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";

/** Renders a part of a page in an open plan, at an address. Returns the router for its state. */
export function onPage(plan: Plan, element: React.ReactNode, search = "") {
  const model = NetworkModel.compile(plan);
  const frame = answer("frame", model, model, viewOf(new URLSearchParams(search)));
  const page = {
    planId: "1",
    revision: 1,
    newest: 1,
    approved: 1,
    visitor: "somebody",
    role: "administers" as const,
    shared: false,
    undo: null,
    redo: null,
  };
  const router = createMemoryRouter(
    [
      {
        path: "*",
        element: (
          <OpenPlanProvider page={page} frame={frame}>
            {element}
          </OpenPlanProvider>
        ),
      },
    ],
    { initialEntries: [`/plans/1/failures${search}`] },
  );
  const drawn = (
    <QueryClientProvider client={new QueryClient()}>
      <TooltipProvider>
        <RouterProvider router={router} />
      </TooltipProvider>
    </QueryClientProvider>
  );
  return { drawn, router };
}

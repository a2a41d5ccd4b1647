declare const granted: unique symbol;

/** The id of a plan that may be read. Whatever reads or writes a plan takes such an id; `permit` gives it to a request. */
export type ReadablePlan = string & { readonly [granted]: { readonly reads: true } };
export type EditablePlan = ReadablePlan & { readonly [granted]: { readonly edits: true } };
export type ApprovablePlan = EditablePlan & { readonly [granted]: { readonly approves: true } };
export type AdministeredPlan = ApprovablePlan & { readonly [granted]: { readonly administers: true } };

/** Shows that the workspace is administered. Accounts and the audit log are reached with it alone. */
export type Administration = { readonly [granted]: "workspace" };

/** Ids come from addresses that people type; anything but a number names nothing. */
export function isPlanId(id: string): boolean {
  return /^[1-9]\d{0,17}$/.test(id);
}

/** The id of a plan for work that no request asks for: the worker, the set-up, the command line. */
export function ownPlan(plan: string): AdministeredPlan {
  return plan as AdministeredPlan;
}

/** The same for the workspace. */
export const ownAdministration = {} as Administration;

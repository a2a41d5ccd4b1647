/** The name of an event, for webhooks and filters, and its sentence, after the user's name. */
export interface EventKind {
  readonly name: string;
  /** With {key} for values of the event's detail; a part in brackets is left out if its value is missing. */
  readonly text: string;
}

/** Every change that can be requested, by its action: the address, and what its form does. */
const kinds: Readonly<Record<string, EventKind>> = {
  "/sign-in": { name: "account.signed-in", text: "signed in" },
  "/sign-in/passkey: ask": { name: "account.sign-in-started", text: "started to sign in with a passkey" },
  "/sign-in/passkey: answer": { name: "account.signed-in", text: "signed in with a passkey" },
  "/sign-out": { name: "account.signed-out", text: "signed out" },
  "/invitation/:secret": { name: "account.password-chosen", text: "chose a password by a sign-in link" },
  "/account: token": { name: "token.created", text: "created the API token[ {name}][ ({role})]" },
  "/account: revoke": { name: "token.revoked", text: "revoked an API token" },
  "/account: password": { name: "account.password-changed", text: "changed their password" },
  "/account: drop passkey": { name: "account.passkey-removed", text: "removed a passkey" },
  "/account: end sign-in": { name: "account.browser-signed-out", text: "signed out another browser" },
  "/account: end others": { name: "account.browser-signed-out", text: "signed out all other browsers" },
  "/account/passkey: ask": { name: "account.passkey-started", text: "started to add a passkey" },
  "/account/passkey: answer": { name: "account.passkey-added", text: "added a passkey" },
  "/accounts: invite": { name: "account.added", text: "added the account[ {name}][ ({role})]" },
  "/accounts: role": { name: "account.role-changed", text: "changed the role of[ {name}][ to {role}]" },
  "/accounts: plan role": {
    name: "account.plan-role-changed",
    text: "changed the plan role of[ {name}][ to {role}]",
  },
  "/accounts: disable": { name: "account.disabled", text: "disabled the account[ {name}]" },
  "/accounts: enable": { name: "account.enabled", text: "enabled the account[ {name}]" },
  "/accounts: link": { name: "account.link-created", text: "created a sign-in link for[ {name}]" },
  "/accounts: restore": { name: "plan.restored", text: "restored a deleted plan" },
  "/name": { name: "account.renamed", text: "changed their name" },
  "/plans: new": { name: "plan.created", text: "created the plan[ {name}]" },
  "/plans: lesson": { name: "plan.created", text: "opened an example as a plan" },
  "/plans: read": { name: "plan.imported", text: "imported a plan" },
  "/plans: delete": { name: "plan.deleted", text: "deleted a plan" },
  "/plans/:plan/edit: edit": { name: "plan.edited", text: "edited the plan[: {edit}]" },
  "/plans/:plan/edit: undo": { name: "plan.edit-undone", text: "undid an edit" },
  "/plans/:plan/edit: redo": { name: "plan.edit-redone", text: "redid an edit" },
  "/plans/:plan/archive": { name: "plan.imported", text: "imported an archive on the server" },
  "/plans/:plan/readings": { name: "readings.saved", text: "saved readings" },
  "/plans/:plan/layouts: keep": { name: "layout.saved", text: "saved a table layout" },
  "/plans/:plan/layouts: import": { name: "layout.saved", text: "imported a table layout" },
  "/plans/:plan/layouts: forget": { name: "layout.removed", text: "removed a table layout" },
  "/plans/:plan/polling: credential": { name: "credentials.saved", text: "saved the credentials[ {name}]" },
  "/plans/:plan/polling: forget-credential": { name: "credentials.removed", text: "removed credentials" },
  "/plans/:plan/polling: target": {
    name: "polling.device-saved",
    text: "set up polling of[ {device}][ at {address}]",
  },
  "/plans/:plan/polling: targets": {
    name: "polling.device-saved",
    text: "set up polling of[ {count} devices]",
  },
  "/plans/:plan/polling: test": {
    name: "polling.tested",
    text: "tested polling of[ {device}][ at {address}]",
  },
  "/plans/:plan/polling: drop-target": {
    name: "polling.device-removed",
    text: "removed a device from polling",
  },
  "/plans/:plan/polling: confirm-proof": { name: "polling.key-confirmed", text: "confirmed a device key" },
  "/plans/:plan/polling: forget-proof": { name: "polling.key-removed", text: "removed a device key" },
  "/plans/:plan/polling: read": { name: "polling.started", text: "polled devices" },
  "/plans/:plan/polling: cancel": { name: "polling.cancelled", text: "cancelled a poll" },
  "/plans/:plan/drift: take": { name: "drift.applied", text: "updated the plan from drift" },
  "/plans/:plan/drift: ignore": { name: "drift.ignored", text: "ignored drift" },
  "/plans/:plan/drift: heed": { name: "drift.no-longer-ignored", text: "stopped ignoring drift" },
  "/plans/:plan/drift: work": { name: "drift.work-added", text: "added drift to the work list" },
  "/plans/:plan/drift: done": { name: "drift.work-removed", text: "removed an item from the work list" },
  "/plans/:plan/rehearsals": { name: "rehearsal.started", text: "started or stopped a lab rehearsal" },
  "/plans/:plan/changes: approve": { name: "revision.approved", text: "approved revision[ {revision}]" },
  "/plans/:plan/changes: four-eyes": {
    name: "plan.approval-rule-changed",
    text: "changed the approval rule[: {rule}]",
  },
  "/plans/:plan/changes: bring-back": { name: "revision.restored", text: "restored revision[ {revision}]" },
  "/plans/:plan/changes: propose": { name: "change.proposed", text: "proposed the change[ {title}]" },
  "/plans/:plan/changes/templates": {
    name: "template.saved",
    text: "saved a device template[ for {profile}]",
  },
  "/plans/:plan/changes/:x: approve": { name: "change.approved", text: "approved change[ {change}]" },
  "/plans/:plan/changes/:x: withdraw": { name: "change.withdrawn", text: "withdrew change[ {change}]" },
  "/plans/:plan/changes/:x: rewrite": { name: "change.edited", text: "edited change[ {change}]" },
  "/plans/:plan/changes/:x: tick": {
    name: "change.step-done",
    text: "completed[ {item}][ ({device})][ of change {change}]",
  },
  "/plans/:plan/changes/:x: untick": {
    name: "change.step-undone",
    text: "reopened[ {item}][ ({device})][ of change {change}]",
  },
  "/plans/:plan/changes/:x: turn back": {
    name: "change.rollback-begun",
    text: "began the rollback of change[ {change}]",
  },
  "/plans/:plan/changes/:x: go on": { name: "change.continued", text: "continued change[ {change}]" },
  "/plans/:plan/changes/:x: done": { name: "change.closed", text: "closed change[ {change}] as carried out" },
  "/plans/:plan/changes/:x: turned back": {
    name: "change.rolled-back",
    text: "closed change[ {change}] as rolled back",
  },
  "/api/v1/plans": { name: "plan.created", text: "created a plan" },
  "/api/v1/plans/:plan/edits": { name: "plan.edited", text: "edited the plan[: {edit}]" },
  "/api/v1/plans/:plan/changes": { name: "change.proposed", text: "proposed the change[ {title}]" },
  "/api/v1/plans/:plan/changes/:x/approval": { name: "change.approved", text: "approved change[ {change}]" },
  "/api/v1/plans/:plan/changes/:x/ticks": {
    name: "change.step-done",
    text: "completed or reopened[ {item}][ ({device})][ of change {change}]",
  },
  "/api/v1/plans/:plan/runs": { name: "polling.started", text: "polled devices" },
  "/api/v1/plans/:plan/facts": { name: "readings.saved", text: "saved readings" },
  "/api/v1/plans/:plan/webhooks": { name: "webhook.added", text: "added a webhook[ to {url}]" },
  "/api/v1/plans/:plan/webhooks/:x/removal": { name: "webhook.removed", text: "removed a webhook" },
};

/** Actions of earlier versions' addresses. */
const moved: readonly (readonly [string, string])[] = [
  ["/plans/:plan/exchange/devices", "/plans/:plan/polling"],
  ["/plans/:plan/exchange/drift", "/plans/:plan/drift"],
  ["/plans/:plan/changes/words", "/plans/:plan/changes/templates"],
];

const OTHER: EventKind = { name: "request", text: "sent a request" };

/** The event of an action such as "POST /plans/:plan/edit: undo". */
export function eventOf(action: string): EventKind {
  let key = action.replace(/^POST /, "");
  for (const [from, to] of moved) if (key.startsWith(from)) key = key.replace(from, to);
  const plain = key.split(": ", 1)[0];
  const found = Object.hasOwn(kinds, key) ? kinds[key] : Object.hasOwn(kinds, plain) ? kinds[plain] : OTHER;
  return found;
}

/** The names of all events, sorted. */
export const eventNames: readonly string[] = [
  ...new Set(Object.values(kinds).map(({ name }) => name)),
].sort();

/** The actions with an event's name. */
export function actionsOf(name: string): string[] {
  return Object.entries(kinds).flatMap(([key, kind]) => (kind.name === name ? [`POST ${key}`] : []));
}

/** The sentence of an event with its detail: "completed step 3 of visit 2 (Office core 2) of change 4". */
export function eventText(action: string, detail: Readonly<Record<string, unknown>>): string {
  return eventOf(action).text.replaceAll(
    /\[([^[\]{}]*)\{(\w+)\}([^[\]{}]*)\]/g,
    (_part, before, key, after) => {
      const value = detail[key];
      return typeof value === "string" || typeof value === "number" ? `${before}${value}${after}` : "";
    },
  );
}

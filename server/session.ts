import { randomBytes, randomUUID } from "node:crypto";
import { createCookieSessionStorage } from "react-router";
import { actorOf } from "./access/actor.ts";
import type { Author } from "./plans.ts";
import { keepSetting } from "./settings.ts";

type Storage = ReturnType<typeof createCookieSessionStorage<{ id: string; name: string }>>;
let storage: Promise<Storage> | null = null;

/** Cookies are signed with a key that is made once and kept in the database. */
async function sessions(): Promise<Storage> {
  storage ??= (async () => {
    const key = await keepSetting("cookie key", randomBytes(32).toString("hex"));
    return createCookieSessionStorage<{ id: string; name: string }>({
      cookie: {
        name: "iron-fork",
        httpOnly: true,
        sameSite: "lax",
        path: "/",
        maxAge: 60 * 60 * 24 * 365,
        secrets: [key],
      },
    });
  })();
  storage.catch(() => {
    storage = null;
  });
  return storage;
}

export interface Visitor extends Author {
  /** The header that keeps a new session; null where the browser has it already. */
  readonly setCookie: string | null;
}

/** The identity of programs without an account. */
const PROGRAM = "00000000-0000-0000-0000-000000000001";

/** The requester: the account if sign-in is on. With sign-in off, a browser gets a session and a name that its user can
 * change. */
export async function visitorOf(request: Request): Promise<Visitor> {
  const actor = actorOf(request);
  if (actor) return { session: actor.account ?? PROGRAM, name: actor.name, setCookie: null };
  const store = await sessions();
  const session = await store.getSession(request.headers.get("Cookie"));
  const id = session.get("id");
  const name = session.get("name");
  if (id && name) return { session: id, name, setCookie: null };
  const fresh = randomUUID();
  const given = `Engineer ${fresh.slice(0, 4)}`;
  session.set("id", fresh);
  session.set("name", given);
  return { session: fresh, name: given, setCookie: await store.commitSession(session) };
}

/** A browser's name if sign-in is off, from its Cookie header. */
export async function visitorName(cookies: string | null): Promise<string> {
  const session = await (await sessions()).getSession(cookies);
  return session.get("name") ?? "not signed in";
}

/** The header that gives the session's user another name. */
export async function renameVisitor(request: Request, name: string): Promise<string> {
  const store = await sessions();
  const session = await store.getSession(request.headers.get("Cookie"));
  if (!session.get("id")) session.set("id", randomUUID());
  session.set("name", name);
  return store.commitSession(session);
}

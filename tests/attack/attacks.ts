import { createSocket } from "node:dgram";
import { readdirSync, readFileSync } from "node:fs";
import { createServer as createHttp } from "node:http";
import { type AddressInfo, connect, createServer as createTcp, type Server } from "node:net";
import { tmpdir } from "node:os";
import { createServer as createTls } from "node:tls";
import { generate } from "selfsigned";
import { editSchema } from "../../core/plan/index.ts";
import { pack } from "../../exchange/archive.ts";
import { neededFor, needs } from "../../server/access/needs.ts";
import { addressOf } from "../../server/http/address.ts";
import { anyGrowing, exponentOf } from "../fuzz/growth.ts";
import { hostileText } from "../fuzz/mutate.ts";
import { demoPlan } from "../support/plans.ts";
import type { Random } from "../support/random.ts";
import { chain, mesh, parallel } from "./documents.ts";
import {
  BOUNDARY,
  expect,
  freePort,
  type Instance,
  type Person,
  rest,
  stranger,
  textIn,
  until,
} from "./instance.ts";
import type { Issuer } from "./issuer.ts";

/** The accounts and their plans. */
export interface World {
  readonly random: Random;
  readonly instance: Instance;
  readonly issuer: Issuer;
  readonly admin: Person;
  readonly ed: Person;
  readonly bo: Person;
  readonly reader: Person;
  /** Edits one plan, and sees no other. */
  readonly guest: Person;
  readonly plan: string;
  /** A plan of others'. */
  readonly other: string;
  /** A token that was made before there were accounts. */
  readonly early: string;
  /** Milliseconds for what can go on as long as one likes. */
  readonly budgetMs: number;
}

/** An attempt at a previously open hole. Throws if it is open again. */
export interface Attack {
  /** The item of the audit it belongs to. */
  readonly item: string;
  readonly what: string;
  /** Whether others' pages are timed meanwhile: one editor does it. */
  readonly load?: boolean;
  /** Whether it waits for most of its time: these are tried at the same time. */
  readonly waits?: boolean;
  readonly run: (world: World) => Promise<void>;
}

const listening = async (server: Server): Promise<number> => {
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  return (server.address() as AddressInfo).port;
};

/** Spellings of a path that different resolvers could map to another path. */
function spellings(random: Random, decoy: string, path: string): string[] {
  const inside = path.slice(1);
  const ups = (up: string) => up.repeat(decoy.split("/").length - 1);
  const some = (text: string) =>
    [...text]
      .map((c) => (/[a-z]/.test(c) && random.chance(0.3) ? `%${c.charCodeAt(0).toString(16)}` : c))
      .join("");
  return [
    `${decoy}/${ups("..\\")}${inside}`,
    `${decoy}/${ups("../")}${inside}`,
    `${decoy}/${ups("%2e%2e/")}${inside}`,
    `${decoy}/${ups("..%2f")}${inside}`,
    `${decoy}/${ups("..%5c")}${inside}`,
    `${decoy}/${ups(".%2e\\")}${inside}`,
    `${decoy}\\${ups("..\\")}${inside}`,
    `/${path}`,
    `${path}//`,
    path.replace("/", "/./"),
    path.replace("/", "\\"),
    `/.${path}`,
    `${path}\\`,
    `${path}%00`,
    `${path}%0d%0a`,
    `${path}%23`,
    `${path};x`,
    some(path),
    `${decoy}/..data`,
    `${decoy}/...data`,
    `http://127.0.0.1${path}`,
    `//127.0.0.1${path}`,
    path.toUpperCase(),
    `${decoy}?x=/../${path}`,
  ];
}

const isLetIn = (status: number) => status >= 200 && status < 300;

async function pathsAreDecidedOnAsServed({ random, instance, reader, guest, plan, other }: World) {
  const open = needs.filter(({ get, post }) => get === "anyone" || post === "anyone").map(({ path }) => path);
  const pathFor = (path: string, id: string) => path.replace(":plan", id).replace(/:(x|secret)/g, "1");
  const decoys = ["/invitation/a", "/sign-in/provider", "/invitation/.", `/plans/${plan}/sweeps/1`];
  for (const need of needs) {
    if (need.get === "anyone" && need.post === "anyone") continue;
    const path = pathFor(need.path, other);
    for (const suffix of ["", ".data"]) {
      for (const text of random.some(spellings(random, random.pick(decoys), `${path}${suffix}`), 5)) {
        for (const method of ["GET", "POST"] as const) {
          const body = method === "POST" ? "{}" : undefined;
          const answer = await instance.ask(method, text, { body });
          const found = addressOf(text, instance.origin);
          const leads = open.includes((found?.pathname ?? "").toLowerCase());
          expect(!isLetIn(answer.status) || leads, `${method} ${text}: ${answer.status} without signing in`);
          // An address of the guest's own plan is theirs.
          const theirs = found !== null && neededFor(method, found.pathname)?.plan === plan;
          const of =
            need.path.includes(":plan") && !theirs
              ? await instance.ask(method, text, { body, as: guest })
              : null;
          expect(!of || !isLetIn(of.status), `${method} ${text}: ${of?.status} with a role in another plan`);
        }
      }
    }
  }
  for (const path of [`/plans/${plan}/sweeps/..\\edit`, `/plans/${plan}/sweeps/../edit.data`]) {
    const answer = await instance.ask("POST", path, { as: reader, body: '{"do":"undo","base":1}' });
    expect(answer.status === 400, `${path}: ${answer.status} for somebody who only reads`);
  }
}

async function earlyTokensEnd({ instance, early }: World) {
  const answer = await instance.ask("GET", "/api/v1/plans", {
    headers: { Authorization: `Bearer ${early}` },
  });
  expect(answer.status === 401, `a token from before the accounts is answered ${answer.status}`);
}

const routeEdit = (to: string) =>
  editSchema.parse({
    label: `Add ${to}`,
    changes: [
      {
        in: "device",
        device: "west",
        collection: "routes",
        before: null,
        after: { to, discard: "drop" },
      },
    ],
  });

async function revisionOf(instance: Instance, plan: string): Promise<number> {
  const [row] = await instance.query<{ revision: number }>("select revision from plan where id = $1", [plan]);
  return row.revision;
}

async function edit(instance: Instance, as: Person, plan: string, to: string): Promise<number> {
  const base = await revisionOf(instance, plan);
  const body = JSON.stringify({ do: "edit", base, edit: routeEdit(to) });
  const made = await instance.ask("POST", `/plans/${plan}/edit.data`, { as, body });
  const now = await revisionOf(instance, plan);
  expect(now === base + 1, `the edit was answered ${made.status}: ${made.text.slice(0, 400)}`);
  return now;
}

/** Makes a change of a plan's draft; returns its number. */
async function propose(instance: Instance, as: Person, plan: string): Promise<string> {
  const made = await instance.form(`/plans/${plan}/changes`, { do: "propose", title: "A change" }, { as });
  const change = /changes\/(\d+)/.exec(String(made.headers.location))?.[1];
  if (change === undefined) throw new Error(`no change was proposed: ${made.status} ${textIn(made.text)}`);
  return change;
}

async function authorsDoNotApprove({ instance, admin, ed, bo }: World) {
  const plan = await instance.newPlan(admin, demoPlan("three-routers"));
  const post = (as: Person, fields: Record<string, string>) =>
    instance.form(`/plans/${plan}/changes.data`, fields, { as });
  const on = await post(admin, { do: "four-eyes", on: "yes" });
  expect(on.status < 300, `a second approver was not required: ${on.status}`);
  const mine = await edit(instance, ed, plan, "10.77.0.0/16");
  const base = await revisionOf(instance, plan);
  await instance.ask("POST", `/plans/${plan}/edit.data`, {
    as: ed,
    body: JSON.stringify({ do: "undo", base }),
  });
  const undone = await revisionOf(instance, plan);
  expect(
    (await post(bo, { do: "approve", revision: String(undone) })).status < 400,
    "the undoing was not approved",
  );
  const own = await post(ed, { do: "approve", revision: String(mine) });
  const [{ approved }] = await instance.query<{ approved: number }>(
    "select approved from plan where id = $1",
    [plan],
  );
  expect(own.status === 409 && approved === undone, `an author approved their own work (${own.status})`);
}

async function providersAreBound({ instance, issuer }: World) {
  const begin = async (browser: Person) => {
    const answer = await instance.ask("GET", "/sign-in/provider", { as: browser });
    const url = new URL(String(answer.headers.location));
    issuer.nonce = url.searchParams.get("nonce") ?? "";
    return url.searchParams.get("state") ?? "";
  };
  const back = (browser: Person, state: string) =>
    instance.ask(
      "GET",
      `/sign-in/provider/back?code=c&state=${state}&iss=${encodeURIComponent(issuer.url)}`,
      { as: browser },
    );
  const [mallory, victim] = [stranger("mallory"), stranger("victim")];
  const state = await begin(mallory);
  const foreign = await back(victim, state);
  expect(foreign.status === 401, `another browser was signed in: ${foreign.status}`);
  issuer.forged = true;
  const again = await back(mallory, await begin(mallory));
  issuer.forged = false;
  expect(again.status === 401, `a token with a wrong signature was taken: ${again.status}`);
  const good = stranger("good");
  const own = await back(good, await begin(good));
  expect(
    own.status === 302,
    `the provider's own person was not signed in: ${own.status} ${own.text.slice(0, 200)}`,
  );
}

async function namesDoNotLookAlike({ instance, admin }: World) {
  for (const name of ["аdmin", "ADMlN", "ad\u200bmin", " admin"]) {
    const made = await instance.form("/accounts.data", { do: "invite", name, role: "none" }, { as: admin });
    expect(made.status === 400, `the name ${JSON.stringify(name)} was taken`);
  }
}

async function passwordsAndLimits({ random, instance, admin, ed }: World) {
  const link = await instance.form(
    "/accounts.data",
    { do: "invite", name: `Kim ${random.below(1e6)}`, role: "none" },
    { as: admin },
  );
  const secret = /\/invitation\/([\w-]{43})/.exec(link.text)?.[1];
  for (const password of ["1q2w3e4r5t6y", "ironfork and more", "Chicken-Wing 101", "unbelievable12"]) {
    const taken = await instance.form(`/invitation/${secret}`, { password, again: password });
    expect(taken.status === 400, `the password ${password} was taken`);
  }
  const signIn = (name: string, password: string, as: Person, from: string) =>
    instance.form("/sign-in", { name, password, to: "/plans" }, { as, from });
  // Somebody guesses at a colleague's name: they sign in from elsewhere, and from the same address by a known browser.
  for (let n = 0; n < 25; n++) await signIn("bo", `a guess, number ${n}`, stranger("m"), "127.0.0.66");
  const held = await signIn("bo", "one more guess", stranger("m"), "127.0.0.66");
  expect(held.status === 429, `guessing at one name goes on: ${held.status}`);
  const elsewhere = await signIn("bo", "a lamp on the outer mole", stranger("bo"), "127.0.0.67");
  expect(elsewhere.status === 302, `a colleague is locked out elsewhere: ${elsewhere.status}`);
  // An office behind one address: one guesses at many names.
  for (let n = 0; n < 80; n++)
    await signIn(`nobody ${random.below(1e9)}`, "a guess of somebody", stranger("m"), "127.0.0.68");
  const known: Person = { name: "ed", cookies: new Map(ed.cookies) };
  known.cookies.delete("__Host-iron-fork-sign-in");
  const office = await signIn("ed", "a lamp on the outer mole", known, "127.0.0.68");
  expect(office.status === 302, `an office is locked out: ${office.status}`);
  await until("a colleague on another browser", async () => {
    await rest(700);
    return (await signIn("reader", "a lamp on the outer mole", stranger("r"), "127.0.0.68")).status === 302;
  });
  // The present password cannot be guessed by who finds a browser open.
  let refused = 0;
  for (let n = 0; n < 14; n++) {
    const answer = await instance.form(
      "/account.data",
      {
        do: "password",
        old: `a guess, number ${n}`,
        password: "another sentence of mine",
        again: "another sentence of mine",
      },
      { as: ed },
    );
    if (answer.text.includes("Too many attempts")) refused++;
  }
  expect(refused > 0, "the present password can be guessed without a limit");
}

async function nothingIsKept({ instance, admin, reader, guest, plan, other }: World) {
  for (const path of ["/plans", `/plans/${plan}/map`, `/plans/${plan}/map.data`, "/account"]) {
    const answer = await instance.ask("GET", path, { as: reader });
    expect(String(answer.headers["cache-control"]).includes("no-store"), `${path} may be kept by a browser`);
  }
  const layouts = await instance.ask("GET", `/plans/${other}/layouts?id=1`, { as: guest });
  expect(layouts.status === 403, `layouts of another plan: ${layouts.status}`);
  // A listener whose account is disabled hears no more.
  const leaving = await instance.invite(admin, "leaving", "edits");
  await edit(instance, leaving, plan, "10.78.0.0/16");
  const swept = await instance.ask("POST", `/plans/${plan}/sweeps.data`, {
    as: leaving,
    body: JSON.stringify({ revision: await revisionOf(instance, plan), depth: 1, down: [] }),
  });
  expect(isLetIn(swept.status), `the sweep: ${swept.status}`);
  const change = await propose(instance, leaving, plan);
  const listening_ = instance.ask("GET", `/plans/${plan}/changes/${change}/events`, {
    as: leaving,
    timeoutMs: 15_000,
  });
  await rest(300);
  const [{ id }] = await instance.query<{ id: string }>("select id from account where name = 'leaving'");
  await instance.form("/accounts.data", { do: "disable", account: id }, { as: admin });
  const heard = await Promise.race([listening_.catch(() => null), rest(9000).then(() => "listens")]);
  expect(heard !== "listens", "a disabled account goes on listening");
}

async function leavingLeavesTraces({ instance, ed, reader, plan, admin }: World) {
  const cookie = [...ed.cookies].map(([name, value]) => `${name}=${value}`).join("; ");
  await instance.ask("POST", `/api/v1/plans/${plan}/webhooks`, {
    as: admin,
    body: '{"url":"http://127.0.0.1:9/"}',
  });
  const before = await revisionOf(instance, plan);
  let body = "";
  // At different moments: before the body is read, while the edit is made, behind it.
  for (const [n, ms] of [0, 2, 5, 10, 15, 20, 30, 45, 60].entries()) {
    body = JSON.stringify({ do: "edit", base: before, edit: routeEdit(`10.79.${n}.0/24`) });
    await instance.sendAndLeave(
      `POST /plans/${plan}/edit HTTP/1.1\r\nHost: 127.0.0.1:${instance.port}\r\nOrigin: ${instance.origin}\r\nCookie: ${cookie}\r\nContent-Type: application/json\r\nContent-Length: ${Buffer.byteLength(body)}\r\n\r\n${body}`,
      ms,
    );
  }
  await until("an edit of somebody who left", async () => (await revisionOf(instance, plan)) > before);
  await rest(1000);
  const edits = (await revisionOf(instance, plan)) - before;
  const rows = await instance.query(
    "select from record where action = 'POST /plans/:plan/edit: edit' and who = 'ed' and status < 300 and subject = $1 and at > now() - interval '20 seconds'",
    [`/plans/${plan}/edit`],
  );
  expect(rows.length >= edits, `${edits} edits were made, and ${rows.length} are in the audit log`);
  const told = await instance.query("select from webhook_delivery where event->>'subject' = $1", [
    `/plans/${plan}/edit`,
  ]);
  expect(told.length >= edits, `${edits} edits were made, and webhooks told of ${told.length}`);
  await instance.ask("POST", `/plans/${plan}/edit`, { as: reader, body });
  await until("a refused request in the audit log", async () => {
    return (await instance.query("select from record where who = 'reader' and status = 403")).length > 0;
  });
}

async function linksAreNotLogged({ instance, admin }: World) {
  const link = await instance.form(
    "/accounts.data",
    { do: "invite", name: "lin", role: "none" },
    { as: admin },
  );
  const secret = /\/invitation\/([\w-]{43})/.exec(link.text)?.[1] ?? "";
  await instance.ask("GET", `/invitation/${secret}`);
  await instance.form(`/invitation/${secret}`, { password: "short", again: "short" });
  await instance.form(`/invitation/${secret}.data`, { password: "a\0b", again: "a\0b" });
  await rest(300);
  expect(!instance.logText().includes(secret), "a one-time link is in the log");
  const rows = await instance.query("select from record where subject like $1 or action like $1", [
    `%${secret}%`,
  ]);
  expect(rows.length === 0, "a one-time link is in the audit log");
}

/** Polls a device, and returns the reported message. */
async function polled(
  { instance, admin, plan }: World,
  device: string,
  way: string,
  port: number,
  secret: Record<string, string>,
) {
  const path = `/plans/${plan}/polling.data`;
  const name = `${device}-credential`;
  await instance.form(
    path,
    { do: "credential", name, way, prefixes: "127.0.0.0/8", ...secret },
    { as: admin },
  );
  const [{ id }] = await instance.query<{ id: string }>(
    "select id from credential where plan = $1 and name = $2",
    [plan, name],
  );
  const fields = {
    do: "target",
    device,
    address: "127.0.0.1",
    way,
    port: String(port),
    everyMinutes: "",
    credential: id,
  };
  const kept = await instance.form(path, fields, { as: admin });
  expect(kept.status === 200, `${device} was not added: ${kept.text.slice(0, 300)}`);
  const [target] = await instance.query<{ id: string }>(
    "select id from target where plan = $1 and device = $2",
    [plan, device],
  );
  await instance.form(path, { do: "read", target: target.id }, { as: admin });
  return target.id;
}

const runOf = async (instance: Instance, target: string) => {
  const rows = await instance.query<{ state: string; told: string }>(
    "select state, told from reading_run where target = $1 order by id desc limit 1",
    [target],
  );
  return rows[0];
};

async function communitiesAreNotQuoted(world: World) {
  const { instance, plan, reader } = world;
  const community = `quay-${world.random.below(1e9)}-lantern`;
  const socket = createSocket("udp4");
  // An answer that says whatever it was sent: the library's errors quote it.
  socket.on("message", (message, { port, address }) => socket.send(message, port, address));
  await new Promise<void>((done) => socket.bind(0, "127.0.0.1", done));
  try {
    const target = await polled(world, "echo", "snmp-v2c", socket.address().port, { community });
    await until(
      "the reading",
      async () => !["waiting", "reading"].includes((await runOf(instance, target)).state),
      20_000,
    );
    const page = await instance.ask("GET", `/plans/${plan}/polling`, { as: reader });
    expect(!page.text.includes(community), "a community is shown to somebody who reads");
    const [{ all }] = await instance.query<{ all: string }>(
      "select coalesce(string_agg(r::text, ''), '') as all from reading_run r",
    );
    expect(!all.includes(community) && !instance.logText().includes(community), "a community is kept");
  } finally {
    socket.close();
  }
}

async function credentialsAreNotCollected(world: World) {
  const { instance, ed, admin, plan } = world;
  const { private: key, cert } = await generate([{ name: "commonName", value: "trap" }], { keyType: "ec" });
  let got = "";
  const trap = createTls({ key, cert }, (socket) => {
    socket.on("error", () => {});
    socket.on("data", (part) => {
      got += part.toString("latin1");
      socket.end("HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\n\r\n");
    });
  });
  const port = await listening(trap);
  try {
    const target = await polled(world, "trap", "restconf", port, {
      user: "reader",
      password: "a word for the trap",
    });
    await until("the first contact", async () => (await runOf(instance, target)).state === "failed");
    expect(got === "", "a device whose key nobody has confirmed was sent something");
    const path = `/plans/${plan}/polling.data`;
    const [{ key: offered }] = await instance.query<{ key: string }>(
      "select offered_proof as key from target where id = $1",
      [target],
    );
    const confirmed = await instance.form(path, { do: "confirm-proof", target, key: offered }, { as: ed });
    expect(confirmed.status === 403, `an editor confirms keys: ${confirmed.status}`);
    const added = await instance.form(
      path,
      { do: "credential", name: "x", way: "snmp-v2c", community: "c", prefixes: "0.0.0.0/0" },
      { as: ed },
    );
    expect(added.status === 403, `an editor adds credentials: ${added.status}`);
    // A credential goes to its own prefixes alone.
    await instance.form(
      path,
      {
        do: "credential",
        name: "narrow",
        way: "restconf",
        user: "u",
        password: "p",
        prefixes: "127.9.0.0/16",
      },
      { as: admin },
    );
    const [{ id }] = await instance.query<{ id: string }>("select id from credential where name = 'narrow'");
    const fields = {
      do: "target",
      device: "y",
      address: "127.0.0.1",
      way: "restconf",
      port: "1",
      everyMinutes: "",
      credential: id,
    };
    const beyond = await instance.form(path, fields, { as: ed });
    expect(beyond.status === 400, `a credential goes beyond its prefixes: ${beyond.status}`);
    const made = await instance.ask("POST", `/api/v1/plans/${plan}/webhooks`, {
      as: admin,
      body: '{"url":"http://127.0.0.1:9/"}',
    });
    const secret = Buffer.from((JSON.parse(made.text).secret as string).slice("whsec_".length), "base64");
    const kept = await instance.query<{ secret: Buffer }>("select secret from webhook");
    expect(
      kept.every((row) => !row.secret.includes(secret)),
      "a webhook's secret is kept in the clear",
    );
  } finally {
    trap.close();
  }
}

async function readersGrowLinearly({ random, budgetMs }: World) {
  const end = performance.now() + budgetMs;
  while (performance.now() < end) {
    const growing = anyGrowing(random);
    const exponent = exponentOf(growing);
    if (exponent > 1.6 && exponentOf(growing) > 1.6)
      throw new Error(`${JSON.stringify(growing)} grows with the power ${exponent.toFixed(2)} of its length`);
  }
}

async function archivesWait({ random, instance, ed, plan }: World) {
  const texts = [
    "\n".repeat(3_000_000),
    " \t".repeat(1_500_000),
    "1: a: <".repeat(400_000),
    `${"9".repeat(200_000)}.`.repeat(10),
  ];
  await Promise.all(
    [1, 2, 3].map(async () => {
      const files = texts.map((text, n) => ({ name: `device-${n}/${random.below(100)}.txt`, text }));
      const zip = Buffer.from(pack(files));
      const head = `--${BOUNDARY}\r\nContent-Disposition: form-data; name="file"; filename="a.zip"\r\nContent-Type: application/zip\r\n\r\n`;
      const body = Buffer.concat([Buffer.from(head), zip, Buffer.from(`\r\n--${BOUNDARY}--\r\n`)]);
      const answer = await instance.ask("POST", `/plans/${plan}/archive`, {
        as: ed,
        body,
        type: `multipart/form-data; boundary=${BOUNDARY}`,
      });
      expect(answer.status < 500 || answer.status === 503, `the archive: ${answer.status}`);
    }),
  );
}

async function lyingDevicesStopNothing(world: World) {
  const { instance, ed, admin, plan } = world;
  const { private: key, cert } = await generate([{ name: "commonName", value: "liar" }], { keyType: "ec" });
  // Twenty megabytes that are JSON, and of which nothing is understood soon.
  const nested = `{"ietf-interfaces:interfaces":{"interface":[${'{"name":"a","x":[{"b":1}]},'.repeat(500_000)}{}]}}`;
  const liar = createTls({ key, cert }, (socket) => {
    socket.on("error", () => {});
    socket.once("data", () => {
      socket.write(
        `HTTP/1.1 200 OK\r\nContent-Type: application/yang-data+json\r\nContent-Length: ${nested.length}\r\nConnection: close\r\n\r\n`,
      );
      socket.end(nested);
    });
  });
  const port = await listening(liar);
  try {
    const path = `/plans/${plan}/polling.data`;
    const target = await polled(world, "liar", "restconf", port, {
      user: "reader",
      password: "a word for the liar",
    });
    await until("the first contact", async () => (await runOf(instance, target)).state === "failed");
    const [{ key: offered }] = await instance.query<{ key: string }>(
      "select offered_proof as key from target where id = $1",
      [target],
    );
    await instance.form(path, { do: "confirm-proof", target, key: offered }, { as: admin });
    await until("the reading", async () => (await runOf(instance, target)).state === "reading", 5000);
    // A sweep that is asked for meanwhile is done soon.
    await edit(instance, ed, plan, "10.80.0.0/16");
    const revision = await revisionOf(instance, plan);
    await instance.ask("POST", `/plans/${plan}/sweeps.data`, {
      as: ed,
      body: JSON.stringify({ revision, depth: 1, down: [] }),
    });
    await until(
      "a sweep beside a lying device",
      async () =>
        (
          await instance.query(
            "select from sweep s join sweep_piece p on p.sweep = s.id where s.plan = $1 and s.revision = $2 and p.done_at is not null",
            [plan, revision],
          )
        ).length > 0,
      12_000,
    );
  } finally {
    liar.close();
  }
}

async function keysMakeNobodyWait({ random, instance, ed, reader }: World) {
  const key = `key-${random.below(1e9)}`;
  const body = JSON.stringify({ document: mesh(28, `mesh ${key}`) });
  const asked = Array.from({ length: 6 }, () =>
    instance.ask("POST", "/api/v1/plans", { as: ed, body, headers: { "Idempotency-Key": key } }),
  );
  await rest(100);
  const search = await instance.ask("GET", "/search?q=10.0.0.1", { as: reader });
  expect(
    search.status === 200 && search.ms < 5000,
    `another person's search took ${Math.round(search.ms)} ms`,
  );
  const answers = await Promise.all(asked);
  expect(
    answers.filter(({ status }) => status === 201).length >= 1,
    `no request was answered: ${answers.map(({ status }) => status)}`,
  );
  for (const { status, headers } of answers)
    expect(
      status === 201 || (status === 409 && headers["retry-after"] !== undefined),
      `with one key: ${status}`,
    );
  const names = await instance.query("select from plan where name = $1", [`mesh ${key}`]);
  expect(names.length === 1, `one key made ${names.length} plans`);
}

async function streamsAreCapped({ instance, ed, plan }: World) {
  await edit(instance, ed, plan, "10.83.0.0/16").catch(() => 0);
  const change = await propose(instance, ed, plan);
  const cookie = [...ed.cookies].map(([name, value]) => `${name}=${value}`).join("; ");
  const statuses: number[] = [];
  const sockets = Array.from({ length: 60 }, () => {
    const socket = connect(instance.port, "127.0.0.1");
    socket.on("error", () => {});
    socket.once("data", (part) => statuses.push(Number(/^HTTP\/1.1 (\d+)/.exec(part.toString())?.[1])));
    socket.write(
      `GET /plans/${plan}/changes/${change}/events HTTP/1.1\r\nHost: 127.0.0.1:${instance.port}\r\nCookie: ${cookie}\r\n\r\n`,
    );
    return socket;
  });
  await until("answers to listeners", () => statuses.length === 60);
  for (const socket of sockets) socket.destroy();
  expect(statuses.filter((status) => status === 200).length <= 20, "one person listens without a limit");
  expect(
    statuses.some((status) => status === 429),
    `listeners are answered ${[...new Set(statuses)]}`,
  );
}

/** Processes whose command line holds a word. */
function processesWith(word: string): number {
  return readdirSync("/proc").filter((pid) => {
    try {
      return /^\d+$/.test(pid) && readFileSync(`/proc/${pid}/cmdline`, "utf8").includes(word);
    } catch {
      return false;
    }
  }).length;
}

async function printingEnds({ instance, ed, admin }: World) {
  const large = await instance.newPlan(admin, demoPlan("marrow-bay"));
  const mark = "iron-fork-print-";
  const leave = new AbortController();
  const cookie = [...ed.cookies].map(([name, value]) => `${name}=${value}`).join("; ");
  const leaving = [1, 2, 3].map(() =>
    fetch(`${instance.origin}/plans/${large}/network-report?as=pdf`, {
      headers: { Cookie: cookie },
      signal: leave.signal,
    }).catch(() => null),
  );
  await until("a document being printed", () => processesWith(mark) > 0, 15_000);
  // One at a time: the group of one is the watcher and Chromium's own processes, of one folder.
  const folders = readdirSync(tmpdir()).filter((name) => name.startsWith(mark));
  expect(folders.length <= 1, `${folders.length} documents are printed at the same time`);
  leave.abort();
  await Promise.all(leaving);
  await until("Chromium to end once nobody waits", () => processesWith(mark) === 0, 6000);
  await until("its folders to go", () => !readdirSync(tmpdir()).some((name) => name.startsWith(mark)), 6000);
  const printed = await instance.ask("GET", `/plans/${large}/network-report?as=pdf`, { as: ed });
  expect(
    printed.headers["content-type"] === "application/pdf",
    `the book: ${printed.status} ${printed.text.slice(0, 200)}`,
  );
}

async function receiversAreApart({ instance, ed, admin, plan }: World) {
  const drips = createTcp((socket) => {
    socket.on("error", () => {});
    socket.write("HTTP/1.1 200 OK\r\nX-Drip: ");
    const drip = setInterval(() => socket.write("a"), 300);
    socket.on("close", () => clearInterval(drip));
  });
  let got = 0;
  const good = createHttp((_req, res) => {
    got++;
    res.writeHead(204).end();
  });
  const ports = [await listening(drips), await listening(good)];
  try {
    for (const port of [...Array.from({ length: 12 }, () => ports[0]), ports[1]])
      await instance.ask("POST", `/api/v1/plans/${plan}/webhooks`, {
        as: admin,
        body: JSON.stringify({ url: `http://127.0.0.1:${port}/` }),
      });
    await edit(instance, ed, plan, "10.81.0.0/16");
    await until("a delivery beside receivers that drip", () => got > 0, 8000);
  } finally {
    await instance.query("delete from webhook where plan = $1", [plan]);
    drips.close();
    good.close();
  }
}

async function fullDisksEndNothing({ instance: first, ed, reader, plan }: World) {
  const port = await freePort();
  // Nothing can be written to this file: there is no space on that device, ever.
  const child = await first.serve({
    PORT: String(port),
    IRON_FORK_LOG: "/dev/full",
    IRON_FORK_DISKS: "/proc",
  });
  const instance = first.at(port);
  try {
    for (let n = 0; n < 5; n++) {
      const page = await instance.ask("GET", `/plans/${plan}/map`, { as: reader });
      expect(page.status === 200, `reading on a full disk: ${page.status}`);
    }
    const body = JSON.stringify({ do: "edit", base: 1, edit: routeEdit("10.82.0.0/16") });
    const saved = await instance.ask("POST", `/plans/${plan}/edit`, { as: ed, body });
    expect(
      saved.status === 507 && saved.text.includes("disk is full"),
      `writing on a full disk: ${saved.status}`,
    );
    expect(child.exitCode === null, "the application ended");
  } finally {
    await first.stop(child);
  }
}

async function costlyDocumentsAreAnswered({ instance, ed }: World) {
  for (const document of [mesh(60, "mesh of 60"), parallel(119, 20_000)]) {
    const plan = await instance.newPlan(ed, document);
    const map = await instance.ask("GET", `/plans/${plan}/map.data`, { as: ed });
    expect(
      map.status === 200 && map.ms < 20_000,
      `the map of ${document.name}: ${map.status} after ${Math.round(map.ms)} ms`,
    );
    await instance.form("/plans", { do: "delete", plan }, { as: ed });
  }
  const started = performance.now();
  const refused = await instance.newPlan(ed, chain(20_000)).then(
    () => "",
    (error: Error) => error.message,
  );
  expect(
    /profiles/.test(refused) && performance.now() - started < 10_000,
    `a chain of profiles: ${refused.slice(0, 200)}`,
  );
}

const doings =
  "invite restore role disable enable link plan-role token revoke password drop_passkey end_sign-in end_others approve four-eyes bring-back propose withdraw rewrite tick untick turn_back go_on done turned_back read cancel credential forget-credential target drop-target forget-proof confirm-proof keep import forget take work new lesson delete edit undo redo ask answer"
    .split(" ")
    .map((word) => word.replaceAll("_", " "));
const names =
  "account role plan token name days revision on replaces title reason notes windowFrom windowTo item stay entry profile source device address way port everyMinutes credential target run key prefixes id file words shapes text passkey sign-in back to password again old base edit".split(
    " ",
  );

async function formsAreRefused({ random, instance, admin, plan, budgetMs }: World) {
  const posts = needs.filter(({ post }) => post !== null).map(({ path }) => path);
  const values = [
    ...hostileText,
    "",
    "0",
    "1",
    "-1",
    "99999999999999999999",
    "00000000-0000-0000-0000-000000000000",
    "a\0b",
    "{}",
    "[]",
    "null",
    "\ud800",
    "x".repeat(3000),
    plan,
  ];
  const end = performance.now() + budgetMs;
  for (let n = 0; n < 60 || performance.now() < end; n++) {
    const path = random
      .pick(posts)
      .replace(":plan", plan)
      .replace(/:(x|secret)/g, () => random.pick(["1", "999999", "a", "v1.s1"]));
    // Whoever signs out, or changes the password, ends what the others do.
    if (["/sign-out", "/account", "/accounts"].includes(path)) continue;
    const fields = Object.fromEntries(
      random.some(names, 1 + random.below(8)).map((name) => [name, random.pick(values)]),
    );
    const all = { do: random.chance(0.9) ? random.pick(doings) : random.pick(values), ...fields };
    if (all.do === "delete" || all.do === "four-eyes") continue;
    const json = random.chance(0.4);
    const answer = json
      ? await instance.ask("POST", path, { as: admin, body: JSON.stringify(all) })
      : await instance.form(path, all, { as: admin });
    expect(
      answer.status < 500 || answer.status === 503,
      `${path} ${JSON.stringify(all).slice(0, 400)}: ${answer.status} ${answer.text.slice(0, 300)}`,
    );
  }
  const strange: Record<string, string>[] = [
    { do: "plan role", account: "00000000-0000-0000-0000-000000000000", plan: "999999", role: "edits" },
    { do: "link", account: "00000000-0000-0000-0000-000000000000" },
    { do: "token", name: "a", role: "edits", days: "1", plan: "999999" },
  ];
  for (const form of strange) {
    const path = form.do === "token" ? "/account.data" : "/accounts.data";
    const answer = await instance.form(path, form, { as: admin });
    expect(answer.status < 500, `${form.do} of what is missing on the device: ${answer.status}`);
  }
}

async function smallerHoles({ random, instance, ed, admin, plan }: World) {
  const options = await instance.ask("POST", "/sign-in/passkey", {
    body: '{"do":"ask"}',
    headers: { Host: `localhost:${instance.port}`, Origin: `http://localhost:${instance.port}` },
  });
  expect(options.text.includes("required"), "a passkey without verification of its user signs in");
  const [{ before }] = await instance.query<{ before: number }>("select count(*)::int as before from record");
  for (let n = 0; n < 120; n++)
    await instance.form(
      "/sign-in",
      { name: `x${n}`, password: "a guess of somebody" },
      { from: `127.0.1.${random.below(250) + 1}` },
    );
  await rest(300);
  const [{ after }] = await instance.query<{ after: number }>("select count(*)::int as after from record");
  expect(after - before < 60, `120 failed sign-ins are ${after - before} rows of the audit log`);
  for (const origin of [
    `http://localhost:${instance.port}`,
    `http://[::1]:${instance.port}`,
    `https://127.0.0.1:${instance.port}`,
    "null",
  ]) {
    const answer = await instance.ask("POST", `/plans/${plan}/edit`, {
      as: ed,
      body: '{"do":"undo","base":1}',
      headers: { Origin: origin },
    });
    expect(answer.status === 403, `a page of ${origin} changes something: ${answer.status}`);
  }
  const headers = { "Idempotency-Key": `once-${random.below(1e9)}` };
  const body = '{"url":"http://127.0.0.1:9/"}';
  const first = await instance.ask("POST", `/api/v1/plans/${plan}/webhooks`, { as: admin, body, headers });
  const second = await instance.ask("POST", `/api/v1/plans/${plan}/webhooks`, { as: admin, body, headers });
  expect(
    JSON.parse(first.text).secret !== null && JSON.parse(second.text).secret === null,
    "a secret is shown twice",
  );
}

async function rolesAreNarrow({ instance }: World) {
  for (const statement of [
    "create table iron_fork.mine (a int)",
    "drop table iron_fork.plan",
    "update iron_fork.record set who = 'x'",
    "delete from iron_fork.record",
    "alter table iron_fork.record disable trigger all",
    "create role mallory superuser",
    "copy (select 1) to program 'true'",
  ]) {
    const failed = await instance.query(statement, [], "data").then(
      () => null,
      (error: Error) => error.message,
    );
    expect(
      failed !== null && /denied|must be|permission|owner/.test(failed),
      `the server's role may: ${statement} (${failed})`,
    );
  }
  for (const role of ["superuser", "owner", "data"] as const)
    expect(
      processesWith(new URL(instance.urlAs(role)).password) === 0,
      "a password of the database is on a command line",
    );
}

export const attacks: readonly Attack[] = [
  { item: "1", what: "access is decided on the path that is served", run: pathsAreDecidedOnAsServed },
  { item: "2", what: "tokens from before the accounts end", run: earlyTokensEnd },
  { item: "3", what: "authors do not approve their own work", run: authorsDoNotApprove },
  {
    item: "4",
    what: "a provider's sign-in is bound to its browser, and its tokens to its key",
    run: providersAreBound,
  },
  { item: "4", what: "names that look alike are refused", run: namesDoNotLookAlike },
  { item: "5", what: "passwords are not common, and nobody is locked out", run: passwordsAndLimits },
  {
    item: "6",
    what: "browsers keep nothing, and disabled accounts hear nothing",
    waits: true,
    run: nothingIsKept,
  },
  {
    item: "7",
    what: "whoever leaves is in the audit log, and so is who is refused",
    run: leavingLeavesTraces,
  },
  { item: "8", what: "one-time links are in no log", run: linksAreNotLogged },
  { item: "9", what: "communities are not quoted", waits: true, run: communitiesAreNotQuoted },
  { item: "10", what: "credentials are not collected", run: credentialsAreNotCollected },
  { item: "11", what: "readers take linear time", run: readersGrowLinearly },
  { item: "11, 14", what: "archives wait in the slow lane", load: true, run: archivesWait },
  { item: "12", what: "lying devices stop nothing", load: true, run: lyingDevicesStopNothing },
  { item: "13", what: "one Idempotency-Key makes nobody wait", load: true, run: keysMakeNobodyWait },
  { item: "14", what: "listeners are capped", load: true, run: streamsAreCapped },
  { item: "15", what: "printing ends with who waits for it", load: true, run: printingEnds },
  { item: "16", what: "webhooks are delivered list", load: true, run: receiversAreApart },
  { item: "17", what: "full disks end nothing", waits: true, run: fullDisksEndNothing },
  { item: "18", what: "costly documents are answered", load: true, run: costlyDocumentsAreAnswered },
  { item: "19", what: "forms are refused with a sentence", run: formsAreRefused },
  { item: "20", what: "passkeys, audit log, origins, secrets", run: smallerHoles },
  { item: "21", what: "the server's role reads and writes rows alone", run: rolesAreNarrow },
];

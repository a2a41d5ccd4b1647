import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ownDatabase } from "../../tests/support/own-database.ts";
import { until } from "../../tests/support/until.ts";
import { migrate } from "../migrate.ts";
import { database } from "../pool.ts";
import {
  accountByPassword,
  accountOf,
  changePassword,
  hasAccounts,
  inviteAccount,
  invitedTo,
  linkFor,
  takeInvitation,
} from "./accounts.ts";
import { type AuditEntry, addToRecord, recordLines, verifyRecord } from "./audit-log.ts";
import { isConfusable } from "./confusable-names.ts";
import { ownAdministration } from "./grants.ts";
import { attempted, attemptSucceeded } from "./limits.ts";
import { partyOf } from "./passkeys.ts";
import { hashPassword, isPassword, weaknessOf } from "./passwords.ts";
import { providerSettings } from "./provider.ts";
import { actorBySignIn, beginSignIn, endSignIn, isKnownDevice, secretIn, signInsOf } from "./sign-ins.ts";
import { actorByToken, makeToken } from "./tokens.ts";

const PASSWORD = "correct horse battery staple";
const from = { agent: "a browser", address: "192.0.2.7" };

describe("passwords", () => {
  it.each<[string, boolean]>([
    [PASSWORD, true],
    ["Übergrößenträger am Kai", true],
    ["short one", false],
    ["aaaaaaaaaaaaaaaa", false],
    ["password1234", false],
    ["ann ann ann ann", false],
    ["x".repeat(201), false],
    ["1q2w3e4r5t6y", false],
    ["Chicken-Wing 101", false],
    ["Baseball1234567", false],
    ["letmeinletmein", false],
    ["my iron-fork login", false],
    ["I am Ann of the docks", false],
  ])("%j is fine: %s", async (password, fine) =>
    expect((await weaknessOf(password, "Ann")) === null).toBe(fine),
  );

  it("are kept as argon2id with a salt each, and known again however they are composed", async () => {
    const [one, other] = [
      await hashPassword("café au lait, twice"),
      await hashPassword("café au lait, twice"),
    ];
    expect(one).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
    expect(one).not.toBe(other);
    expect(await isPassword(one, "cafe\u0301 au lait, twice")).toBe(true);
    expect(await isPassword(one, "cafe au lait, twice")).toBe(false);
    expect(await isPassword(null, "never a valid password")).toBe(false);
  });
});

describe("passkeys' party and the provider's settings", () => {
  it("has a name, and is no address", () => {
    expect(partyOf("http://localhost:3000/sign-in")).toEqual({
      id: "localhost",
      origin: "http://localhost:3000",
    });
    for (const address of ["http://127.0.0.1:3000/", "https://[2001:db8::1]/", "http://192.0.2.1/"])
      expect(partyOf(address)).toBe(null);
  });

  it("are read whole, or refused with a sentence", () => {
    const env = {
      IRON_FORK_OIDC_ISSUER: "https://id.example",
      IRON_FORK_OIDC_CLIENT_ID: "a",
      IRON_FORK_OIDC_CLIENT_SECRET: "b",
    };
    expect(providerSettings({})).toBe(null);
    expect(providerSettings({ ...env, IRON_FORK_OIDC_ROLES: "noc=edits, leads=approves" })).toMatchObject({
      name: "id.example",
      otherwise: "none",
      groups: new Map([
        ["noc", "edits"],
        ["leads", "approves"],
      ]),
    });
    expect(() => providerSettings({ ...env, IRON_FORK_OIDC_ROLES: "noc=king" })).toThrow(/group=role/);
    expect(() => providerSettings({ IRON_FORK_OIDC_ISSUER: "https://id.example" })).toThrow(/CLIENT_ID/);
  });
});

const secretOfSignIn = ([[, cookie]]: [string, string][]) => secretIn(cookie.split(";")[0]) as string;

describe("names that look alike", () => {
  it.each([
    ["Ann", "ann", true],
    ["Ann", "Аnn", true],
    ["Bill", "BiII", true],
    ["Ann Lee", "Ann  Lee", true],
    ["ﬁona", "fiona", true],
    ["Ann", "Anna", false],
    ["Ann 1", "Ann 2", false],
  ])("%s and %s: %s", (a, b, alike) => expect(isConfusable(a, b)).toBe(alike));
});

describe.skipIf(!process.env.DATABASE_URL)("in the database", () => {
  const linkTo = async (id: string) => (await linkFor(ownAdministration, id, "test")) as string;
  let leave: () => Promise<void>;
  beforeAll(async () => {
    leave = await ownDatabase();
    await migrate();
  });
  afterAll(async () => leave());

  describe("accounts", () => {
    async function account(): Promise<{ id: string; name: string }> {
      const name = `Ann ${randomUUID().slice(0, 8)}`;
      const made = await inviteAccount(ownAdministration, name, "administers", "test");
      if (!made.ok) throw new Error(made.error);
      const taken = await takeInvitation(made.secret, PASSWORD);
      if (!taken.ok) throw new Error(taken.error);
      return { id: taken.account, name };
    }

    it("are come to by a link that is good once, and by the newest alone", async () => {
      const name = `Bob ${randomUUID().slice(0, 8)}`;
      const made = await inviteAccount(ownAdministration, name, "edits", "test");
      if (!made.ok) throw new Error(made.error);
      expect(await inviteAccount(ownAdministration, name.toUpperCase(), "edits", "test")).toMatchObject({
        ok: false,
      });
      expect(await takeInvitation(made.secret, "short")).toMatchObject({ ok: false });
      const { account: id } = (await invitedTo(made.secret)) as { account: string };
      const second = await linkTo(id);
      expect(await takeInvitation(made.secret, PASSWORD)).toMatchObject({ ok: false });
      const both = await Promise.all([takeInvitation(second, PASSWORD), takeInvitation(second, PASSWORD)]);
      expect(both.filter(({ ok }) => ok)).toHaveLength(1);
      expect(await hasAccounts()).toBe(true);
      const third = await linkTo(id);
      await database().query(
        "update invitation set made_at = now() - interval '73 hours' where account = $1",
        [id],
      );
      expect(await invitedTo(third)).toBe(null);
    });

    it("sign in by name and password, whatever the name's case; another password signs all else out", async () => {
      const { id, name } = await account();
      expect((await accountByPassword(` ${name.toUpperCase()} `, PASSWORD))?.id).toBe(id);
      expect(await accountByPassword(name, `${PASSWORD}!`)).toBe(null);
      expect(await accountByPassword("nobody by that name", PASSWORD)).toBe(null);
      const [here, there] = await Promise.all([
        beginSignIn(id, "password", from),
        beginSignIn(id, "passkey", from),
      ]);
      const [mine, other] = [here, there].map(secretOfSignIn);
      expect(await actorBySignIn(other)).toMatchObject({ account: id, role: "administers" });
      expect(await changePassword(id, "not the present one", "a sentence of my own", mine)).toMatchObject({
        ok: false,
      });
      expect(await changePassword(id, PASSWORD, "a sentence of my own", mine)).toEqual({ ok: true });
      expect(await actorBySignIn(mine)).not.toBe(null);
      expect(await actorBySignIn(other)).toBe(null);
      expect(await signInsOf(id)).toHaveLength(1);
      await endSignIn(mine);
      expect(await actorBySignIn(mine)).toBe(null);
    });

    it("keeps no password, no link and no sign-in as it was given", async () => {
      const { id } = await account();
      const secret = secretOfSignIn(await beginSignIn(id, "password", from));
      const link = await linkTo(id);
      const { rows } = await database().query<{ all: string }>(
        "select (select json_agg(a)::text from account a) || (select json_agg(s)::text from sign_in s) || (select json_agg(i)::text from invitation i) as all",
      );
      for (const told of [PASSWORD, secret, link, Buffer.from(link).toString("hex")])
        expect(rows[0].all).not.toContain(told);
      expect((await accountOf(id))?.password).toMatch(/^\$argon2id/);
    });

    it("gives a cookie of this host alone, out of scripts' reach", async () => {
      const { id } = await account();
      const cookies = await beginSignIn(id, "password", from);
      expect(cookies.map(([name]) => name)).toEqual(["Set-Cookie", "Set-Cookie"]);
      for (const [, cookie] of cookies)
        expect(cookie).toMatch(
          /^__Host-iron-fork-(sign-in|device)=[\w-]{43}; Path=\/; Secure; HttpOnly; SameSite=Lax; Max-Age=\d+$/,
        );
      for (const none of [
        null,
        "",
        "a=b",
        "__Host-iron-fork-sign-in=",
        "__Host-iron-fork-sign-in=x y",
        "x__Host-iron-fork-sign-in=abc",
      ])
        expect(secretIn(none)).toBe(null);
    });

    it("counts attempts at a name from an address, and forgets them once somebody is in", async () => {
      const [address, name] = [randomUUID(), randomUUID()];
      for (let n = 0; n < 10; n++) expect(await attempted(address, name, false)).toBe(null);
      expect(await attempted(address, ` ${name.toUpperCase()}`, false)).toBe(
        "Too many attempts. Try again in 15 min.",
      );
      expect(await attempted(address, "another", false)).toBe(null);
      await attemptSucceeded(address, name, false);
      expect(await attempted(address, name, false)).toBe(null);
    });

    it("locks out neither a colleague whose name is guessed nor others behind the same address", async () => {
      const [office, elsewhere, name] = [randomUUID(), randomUUID(), randomUUID()];
      for (let n = 0; n < 40; n++) await attempted(elsewhere, name, false);
      expect(await attempted(office, name, false)).toBe(null);
      // Somebody in the office guesses: colleagues sign in from browsers that they have used before, others more slowly.
      for (let n = 0; n < 100; n++) await attempted(office, randomUUID(), false);
      expect(await attempted(office, name, true)).toBe(null);
      let waits = "";
      await until(async () => {
        waits = (await attempted(office, randomUUID(), false)) ?? "";
        return waits === "";
      }, 8000);
      expect(waits).toBe("");
    }, 20_000);

    it("bounds the attempts at a name from many addresses, as ASVS 2.2.1 asks", async () => {
      const name = randomUUID();
      let taken = 0;
      for (let n = 0; n < 130; n++)
        if ((await attempted(`2001:db8:${n.toString(16)}::1`, name, false)) === null) taken++;
      expect(taken).toBe(100);
      // The addresses of one client's network count as one.
      const other = randomUUID();
      let fromOne = 0;
      for (let n = 0; n < 30; n++)
        if ((await attempted(`2001:db8:5:5::${n.toString(16)}`, other, false)) === null) fromOne++;
      expect(fromOne).toBe(10);
    });

    it("knows a browser that has signed in before, by its cookie and for that account alone", async () => {
      const [ann, bob] = [await account(), await account()];
      const [, [, device]] = await beginSignIn(ann.id, "password", from);
      const cookies = device.split(";")[0];
      expect(await isKnownDevice(cookies, ` ${ann.name.toUpperCase()}`)).toBe(true);
      expect(await isKnownDevice(cookies, bob.name)).toBe(false);
      expect(await isKnownDevice(`__Host-iron-fork-device=${"x".repeat(43)}`, ann.name)).toBe(false);
    });

    it("revokes tokens that were made without accounts with the first one, and takes none afterwards", async () => {
      await database().query("delete from account");
      const token = await makeToken(null, { name: "early", role: "administers", plan: null, days: 1 });
      expect(await actorByToken(token)).toMatchObject({ role: "administers" });
      const made = await inviteAccount(
        ownAdministration,
        `Cy ${randomUUID()}`.slice(0, 40),
        "administers",
        "test",
      );
      expect(made).toMatchObject({ ok: true, revoked: 1 });
      expect(await actorByToken(token)).toBe(null);
      const late = await makeToken(null, { name: "late", role: "administers", plan: null, days: 1 });
      expect(await actorByToken(late)).toBe(null);
    });

    it("refuses a name that looks like another account's", async () => {
      const name = `Olga ${randomUUID().slice(0, 8)}`;
      expect(await inviteAccount(ownAdministration, name, "edits", "test")).toMatchObject({ ok: true });
      for (const twin of [
        name.replace("O", "О"),
        name.replace("l", "I"),
        name.replace(" ", "\u00a0 "),
        `${name}\u200b`,
      ])
        expect(await inviteAccount(ownAdministration, twin, "edits", "test"), twin).toMatchObject({
          ok: false,
        });
    });
  });

  describe("the record", () => {
    const deed = (subject: string): AuditEntry => ({
      who: "Ann",
      account: null,
      address: "192.0.2.7",
      action: "POST /plans/:plan/edit: edit",
      subject,
      status: 200,
      request: randomUUID(),
      detail: { b: [1, { d: 2, c: "é" }], a: null },
    });

    it("is added to one row after the other, by many at once, and is whole", async () => {
      await Promise.all(Array.from({ length: 12 }, (_, n) => addToRecord(deed(`/plans/${n}`))));
      const found = await verifyRecord();
      expect(found).toMatchObject({ ok: true });
      const lines: string[] = [];
      for await (const line of recordLines(ownAdministration)) lines.push(line);
      if (found.ok) expect(lines).toHaveLength(found.rows);
      expect(JSON.parse(lines.at(-1) as string)).toMatchObject({ who: "Ann", status: 200 });
    });

    it("can be neither changed nor shortened, and tells where somebody did it all the same", async () => {
      await addToRecord(deed("/plans/1"));
      for (const statement of ["update record set who = 'Bob'", "delete from record", "truncate record"])
        await expect(database().query(statement)).rejects.toThrow(/only ever added to/);
      const { rows } = await database().query<{ number: string }>("select max(number) as number from record");
      const last = Number(rows[0].number);
      const behind = async (statement: string, values: unknown[]) => {
        await database().query("alter table record disable trigger record_is_kept");
        await database().query(statement, values);
        await database().query("alter table record enable trigger record_is_kept");
      };
      await behind("update record set who = 'Bob' where number = $1", [last - 1]);
      expect(await verifyRecord()).toMatchObject({
        ok: false,
        number: last - 1,
        why: "its content does not match its digest",
      });
      await behind("update record set who = 'Ann' where number = $1", [last - 1]);
      expect(await verifyRecord()).toMatchObject({ ok: true });
      await behind("update record set detail = '{}' where number = $1", [last]);
      expect(await verifyRecord()).toMatchObject({ ok: false, number: last });
      await behind("delete from record where number = $1", [last - 1]);
      expect(await verifyRecord()).toMatchObject({ ok: false, number: last - 1, why: "a row is missing" });
      await behind("delete from record where number >= $1", [0]);
    });
  });
});

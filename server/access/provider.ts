import * as client from "openid-client";
import type pg from "pg";
import { database, transaction } from "../pool.ts";
import { twinOf } from "./accounts.ts";
import { isRole, type Role, roles } from "./roles.ts";
import { digestOf, freshSecret } from "./secrets.ts";
import { secretOf } from "./sign-ins.ts";
import { sql } from "./sql.ts";

/** A sign-in provider (OpenID Connect Core 1.0), as the environment gives it. */
export interface ProviderSettings {
  readonly issuer: URL;
  readonly clientId: string;
  readonly clientSecret: string;
  /** Its name on the page. */
  readonly name: string;
  /** The claim that tells groups, and the role that each gives: the highest counts. */
  readonly claim: string;
  readonly groups: ReadonlyMap<string, Role>;
  /** The role of those whose groups give none. */
  readonly otherwise: Role;
}

/** The sign-in provider's settings; null without one. Throws an error message for invalid settings. */
export function providerSettings(env: NodeJS.ProcessEnv = process.env): ProviderSettings | null {
  const issuer = env.IRON_FORK_OIDC_ISSUER ?? "";
  if (issuer === "") return null;
  const clientId = env.IRON_FORK_OIDC_CLIENT_ID ?? "";
  const clientSecret = env.IRON_FORK_OIDC_CLIENT_SECRET ?? "";
  if (!URL.canParse(issuer) || clientId === "" || clientSecret === "")
    throw new Error(
      "IRON_FORK_OIDC_ISSUER needs an address; IRON_FORK_OIDC_CLIENT_ID and IRON_FORK_OIDC_CLIENT_SECRET are required with it",
    );
  const groups = new Map<string, Role>();
  for (const pair of (env.IRON_FORK_OIDC_ROLES ?? "").split(",").filter((text) => text.trim() !== "")) {
    const [group, role] = pair.split("=").map((text) => text.trim());
    if (!role || !isRole(role))
      throw new Error(
        `IRON_FORK_OIDC_ROLES says "${pair}"; write group=role, the roles are ${roles.join(", ")}`,
      );
    groups.set(group, role);
  }
  const otherwise = env.IRON_FORK_OIDC_ROLE ?? "none";
  if (!isRole(otherwise))
    throw new Error(`IRON_FORK_OIDC_ROLE is "${otherwise}"; the roles are ${roles.join(", ")}`);
  return {
    issuer: new URL(issuer),
    clientId,
    clientSecret,
    name: env.IRON_FORK_OIDC_NAME ?? new URL(issuer).host,
    claim: env.IRON_FORK_OIDC_CLAIM ?? "groups",
    groups,
    otherwise,
  };
}

/** The time allowed at the provider, in minutes. */
const MINUTES = 15;

let found: Promise<client.Configuration> | null = null;

/** The provider's own description, fetched once; asked again where it could not be had. */
function configuration({ issuer, clientId, clientSecret }: ProviderSettings): Promise<client.Configuration> {
  // On this machine a provider may be without TLS; elsewhere never.
  const local = ["localhost", "127.0.0.1", "[::1]"].includes(issuer.hostname);
  found ??= client.discovery(issuer, clientId, clientSecret, undefined, {
    // The ID token's signature is checked too, although it comes over TLS (OpenID Connect Core 1.0, 3.1.3.7).
    execute: [client.enableNonRepudiationChecks, ...(local ? [client.allowInsecureRequests] : [])],
    timeout: 10,
  });
  found.catch(() => {
    found = null;
  });
  return found;
}

/** The cookie that ties a sign-in at the provider to the browser that began it. */
const BROWSER = "__Host-iron-fork-provider";

/** The provider's sign-in address, with PKCE (RFC 7636), and a single-use state and nonce; and the cookie that ties the
 * answer to this browser (RFC 6749, 10.12). */
export async function providerAddress(
  settings: ProviderSettings,
  back: string,
  to: string,
): Promise<{ address: URL; cookie: string }> {
  const config = await configuration(settings);
  const [verifier, state, nonce, browser] = [
    client.randomPKCECodeVerifier(),
    client.randomState(),
    client.randomNonce(),
    freshSecret(),
  ];
  await database().query(sql.forgetChallenges);
  await database().query(sql.keepChallenge, [
    state,
    null,
    "provider",
    JSON.stringify({ verifier, nonce, to, browser: digestOf(browser).toString("hex") }),
  ]);
  const address = client.buildAuthorizationUrl(config, {
    redirect_uri: back,
    scope: "openid profile email groups",
    code_challenge: await client.calculatePKCECodeChallenge(verifier),
    code_challenge_method: "S256",
    state,
    nonce,
  });
  return {
    address,
    cookie: `${BROWSER}=${browser}; Path=/; Secure; HttpOnly; SameSite=Lax; Max-Age=${MINUTES * 60}`,
  };
}

/** The account of a user who returned from the provider, and the page to continue with. */
export async function fromProvider(
  settings: ProviderSettings,
  address: URL,
  back: string,
  cookies: string | null,
): Promise<{ ok: true; account: string; to: string } | { ok: false; error: string }> {
  const state = address.searchParams.get("state") ?? "";
  const { rows } = await database().query<{
    detail: { verifier: string; nonce: string; to: string; browser: string };
  }>(sql.takeChallenge, [state, "provider", MINUTES]);
  const browser = secretOf(BROWSER, cookies);
  if (!rows[0] || browser === null || digestOf(browser).toString("hex") !== rows[0].detail.browser)
    return { ok: false, error: "This sign-in took too long or was started in another browser. Start again." };
  const { verifier, nonce, to } = rows[0].detail;
  const here = new URL(back);
  here.search = address.search;
  const config = await configuration(settings);
  const tokens = await client.authorizationCodeGrant(config, here, {
    pkceCodeVerifier: verifier,
    expectedState: state,
    expectedNonce: nonce,
    idTokenExpected: true,
  });
  const claims = tokens.claims();
  if (!claims) return { ok: false, error: "The provider did not send an identity." };
  const role = roleOf(settings, claims[settings.claim]);
  const wanted = String(claims.preferred_username ?? claims.name ?? claims.email ?? claims.sub);
  return transaction<Awaited<ReturnType<typeof fromProvider>>>(async (client) => {
    await client.query(sql.lockAccounts);
    type Row = { id: string; disabledAt: Date | null };
    const known = await client.query<Row>(sql.providerAccount, [role, claims.iss, claims.sub]);
    const account = known.rows[0] ?? (await addAccount(client, wanted, role, claims));
    if (!account)
      return { ok: false, error: "The account's name looks like another account's. Ask an administrator." };
    if (account.disabledAt) return { ok: false, error: "This account is disabled." };
    return { ok: true, account: account.id, to };
  });
}

/** The account of a first-time user; null if its name resembles another's. */
async function addAccount(
  client: pg.PoolClient,
  wanted: string,
  role: Role,
  { iss, sub }: { iss: string; sub: string },
): Promise<{ id: string; disabledAt: Date | null } | null> {
  const plain =
    wanted
      .replace(/[\p{Cc}\p{Cf}]/gu, "")
      .trim()
      .slice(0, 50) || "No name";
  // The provider's own word for the person tells two of one name apart.
  const names = [plain, `${plain} (${digestOf(`${iss} ${sub}`).toString("hex").slice(0, 8)})`];
  for (const name of names) {
    if ((await twinOf(client, name)) !== null) continue;
    await client.query(sql.revokeOwnerless);
    const { rows } = await client.query<{ id: string }>(sql.addProviderAccount, [name, role, iss, sub]);
    return { id: rows[0].id, disabledAt: null };
  }
  return null;
}

/** The highest role among the user's groups. */
function roleOf({ groups, otherwise }: ProviderSettings, claim: unknown): Role {
  const own = (Array.isArray(claim) ? claim : [claim]).flatMap((group) => groups.get(String(group)) ?? []);
  return [otherwise, ...own].reduce((a, b) => (roles.indexOf(b) > roles.indexOf(a) ? b : a));
}

import { isIP } from "node:net";
import {
  type AuthenticationResponseJSON,
  generateAuthenticationOptions,
  generateRegistrationOptions,
  type RegistrationResponseJSON,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
} from "@simplewebauthn/server";
import { database, write } from "../pool.ts";
import { sql } from "./sql.ts";

/** Validity of a challenge in minutes. */
const MINUTES = 5;

export interface Passkey {
  readonly id: string;
  readonly name: string;
  readonly transports: string[];
  readonly madeAt: Date;
  readonly usedAt: Date | null;
}

/** Whom passkeys are for: the host by its name (WebAuthn Level 3, 4: a registrable domain, or localhost, and no address). */
export interface Party {
  readonly id: string;
  readonly origin: string;
}

/** The relying party of an address; null for a host without a name, which cannot have passkeys. */
export function partyOf(address: string): Party | null {
  const { hostname, origin } = new URL(address);
  return isIP(hostname.replace(/^\[|\]$/g, "")) ? null : { id: hostname, origin };
}

export async function passkeysOf(account: string): Promise<Passkey[]> {
  return (await database().query<Passkey & Record<string, unknown>>(sql.passkeysOf, [account])).rows;
}

/** What a browser needs to make a passkey for an account. */
export async function registrationOptions(party: Party, account: string, name: string) {
  const own = await passkeysOf(account);
  const options = await generateRegistrationOptions({
    rpName: "Iron Fork",
    rpID: party.id,
    userName: name,
    userID: new TextEncoder().encode(account),
    attestationType: "none",
    excludeCredentials: own.map(({ id }) => ({ id })),
    authenticatorSelection: { residentKey: "required", userVerification: "required" },
  });
  await keepChallenge(options.challenge, account, "add a passkey");
  return options;
}

/** Stores a passkey made by the browser; returns the error if it is invalid. */
export async function keepPasskey(
  party: Party,
  account: string,
  response: RegistrationResponseJSON,
  name: string,
): Promise<string | null> {
  const challenge = challengeIn(response.response?.clientDataJSON);
  const taken = challenge && (await takeChallenge(challenge, "add a passkey"));
  if (!challenge || !taken || taken.account !== account) return "This took too long. Start again.";
  const { verified, registrationInfo } = await verifyRegistrationResponse({
    response,
    expectedChallenge: challenge,
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    requireUserVerification: true,
  });
  if (!verified || !registrationInfo) return "This passkey is not valid here.";
  const { id, publicKey, counter, transports = [] } = registrationInfo.credential;
  await write(sql.keepPasskey, [id, account, Buffer.from(publicKey), counter, transports, name.slice(0, 60)]);
  return null;
}

export async function dropPasskey(account: string, id: string): Promise<void> {
  await write(sql.dropPasskey, [account, id]);
}

/** What a browser needs to sign in with a passkey, whoever's it is. */
export async function signInOptions(party: Party) {
  const options = await generateAuthenticationOptions({ rpID: party.id, userVerification: "required" });
  await keepChallenge(options.challenge, null, "sign in");
  return options;
}

/** The account whose passkey answered; null if it is unknown or invalid. */
export async function accountByPasskey(
  party: Party,
  response: AuthenticationResponseJSON,
): Promise<string | null> {
  const challenge = challengeIn(response.response?.clientDataJSON);
  if (!challenge || !(await takeChallenge(challenge, "sign in"))) return null;
  interface Row {
    id: string;
    account: string;
    publicKey: Buffer;
    counter: string;
    transports: string[];
    disabledAt: Date | null;
  }
  const { rows } = await database().query<Row & Record<string, unknown>>(sql.passkey, [String(response.id)]);
  const [kept] = rows;
  if (!kept || kept.disabledAt) return null;
  const { verified, authenticationInfo } = await verifyAuthenticationResponse({
    response,
    expectedChallenge: challenge,
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    requireUserVerification: true,
    credential: { id: kept.id, publicKey: new Uint8Array(kept.publicKey), counter: Number(kept.counter) },
  });
  if (!verified) return null;
  await database().query(sql.usedPasskey, [kept.id, authenticationInfo.newCounter]);
  return kept.account;
}

async function keepChallenge(value: string, account: string | null, purpose: string) {
  await database().query(sql.forgetChallenges);
  await database().query(sql.keepChallenge, [value, account, purpose, "{}"]);
}

/** Takes a challenge, so that it is answered once. */
async function takeChallenge(value: string, purpose: string): Promise<{ account: string | null } | null> {
  const { rows } = await database().query<{ account: string | null }>(sql.takeChallenge, [
    value,
    purpose,
    MINUTES,
  ]);
  return rows[0] ?? null;
}

/** The challenge that an answer claims to answer; the signature is verified later. */
function challengeIn(clientData: unknown): string | null {
  try {
    const { challenge } = JSON.parse(Buffer.from(String(clientData), "base64url").toString("utf8"));
    return typeof challenge === "string" ? challenge : null;
  } catch {
    return null;
  }
}

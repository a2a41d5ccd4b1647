import { Form } from "react-router";
import type { Role } from "../../../server/access/roles.ts";
import { Button } from "../../ui/button.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { Part, Told } from "./page.tsx";

export interface TokenShown {
  id: string;
  name: string;
  role: Role;
  plan: string | null;
  madeAt: Date;
  expiresAt: Date;
  usedAt: Date | null;
  revokedAt: Date | null;
}

interface TokensProps {
  tokens: TokenShown[];
  plans: { id: string; name: string }[];
  mostDays: number;
  told: { form: string; error: string; said: string; token?: string } | null;
}

/** Tokens for programs that use /api/v1: what each may do, until when, and when it was used last. */
export function Tokens({ tokens, plans, mostDays, told }: TokensProps) {
  return (
    <Part title="Tokens for programs">
      <p className="text-[13px] text-ink-2">
        A program sends one as <code className="addr">Authorization: Bearer …</code> to{" "}
        <a className="name-link" href="/api/v1/openapi.json">
          /api/v1
        </a>
        .
      </p>
      {told?.token && (
        <p className="mt-2 border-2 border-iron p-2">
          {told.said} <code className="addr break-all">{told.token}</code>
        </p>
      )}
      <ul className="mt-1">
        {tokens.map((token) => {
          const over = token.revokedAt !== null || new Date(token.expiresAt) < new Date();
          return (
            <li key={token.id} className="flex items-center gap-3 border-rule border-t py-1">
              <span className={`font-medium ${over ? "line-through" : ""}`}>{token.name}</span>
              <span className="text-[13px] text-ink-2">
                {token.role}
                {token.plan !== null &&
                  ` in ${plans.find(({ id }) => id === token.plan)?.name ?? `plan ${token.plan}`}`}
                , {token.revokedAt ? "revoked" : "until"}{" "}
                <ClockTime at={token.revokedAt ?? token.expiresAt} />
                {token.usedAt ? (
                  <>
                    , used <ClockTime at={token.usedAt} />
                  </>
                ) : (
                  ", never used"
                )}
              </span>
              {!over && (
                <Form method="post" className="ml-auto">
                  <input type="hidden" name="do" value="revoke" />
                  <input type="hidden" name="token" value={token.id} />
                  <Button type="submit" aria-label={`Revoke ${token.name}`}>
                    Revoke
                  </Button>
                </Form>
              )}
            </li>
          );
        })}
      </ul>
      <Form method="post" aria-label="Make a token" className="mt-2 flex flex-wrap items-end gap-2">
        <input type="hidden" name="do" value="token" />
        <span className="flex flex-col">
          <label htmlFor="token-name" className="text-[13px] text-ink-2">
            What it is for
          </label>
          <input id="token-name" name="name" required maxLength={60} className="field w-56" />
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-role" className="text-[13px] text-ink-2">
            What it may do
          </label>
          <select id="token-role" name="role" className="field">
            {(["reads", "edits", "approves", "administers"] as const).map((role) => (
              <option key={role}>{role}</option>
            ))}
          </select>
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-plan" className="text-[13px] text-ink-2">
            In which plan
          </label>
          <select id="token-plan" name="plan" className="field">
            <option value="">every plan</option>
            {plans.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-days" className="text-[13px] text-ink-2">
            Days
          </label>
          <input
            id="token-days"
            name="days"
            type="number"
            min={1}
            max={mostDays}
            defaultValue={90}
            className="field w-24"
          />
        </span>
        <Button type="submit">Make a token</Button>
      </Form>
      {!told?.token && <Told told={told} form="token" />}
      <Told told={told} form="revoke" />
    </Part>
  );
}

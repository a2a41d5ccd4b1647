import { Form } from "react-router";
import { type Role, roleNames } from "../../../server/access/roles.ts";
import { Button } from "../../ui/button.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { FormPick } from "../../ui/select.tsx";
import { FormResult, Part } from "./page.tsx";

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
    <Part title="API tokens">
      <p className="text-[13px] text-ink-2">
        A program sends the token as <code className="addr">Authorization: Bearer …</code> to{" "}
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
                {roleNames[token.role]}
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
      <Form method="post" aria-label="Create token" className="mt-2 flex flex-wrap items-end gap-2">
        <input type="hidden" name="do" value="token" />
        <span className="flex flex-col">
          <label htmlFor="token-name" className="text-[13px] text-ink-2">
            Purpose
          </label>
          <input id="token-name" name="name" required maxLength={60} className="field w-56" />
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-role" className="text-[13px] text-ink-2">
            Role
          </label>
          <FormPick
            id="token-role"
            name="role"
            defaultValue="reads"
            choices={(["reads", "edits", "approves", "administers"] as const).map((role) => ({
              value: role,
              label: roleNames[role],
            }))}
          />
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-plan" className="text-[13px] text-ink-2">
            Plan
          </label>
          <FormPick
            id="token-plan"
            name="plan"
            defaultValue=""
            choices={[
              { value: "", label: "all plans" },
              ...plans.map(({ id, name }) => ({ value: id, label: name })),
            ]}
          />
        </span>
        <span className="flex flex-col">
          <label htmlFor="token-days" className="text-[13px] text-ink-2">
            Valid for, days
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
        <Button type="submit">Create token</Button>
      </Form>
      {!told?.token && <FormResult told={told} form="token" />}
      <FormResult told={told} form="revoke" />
    </Part>
  );
}

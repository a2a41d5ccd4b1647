/** Every statement about accounts, sign-ins, tokens and the record. */
export const sql = {
  anyAccount: "select exists (select from account) as there",
  /** digest, hours idle, days in all: who holds it, with the roles in single plans */
  findSignIn: `
    select a.id::text as account, a.name, a.role, coalesce(r.roles, '{}') as plans,
           s.seen_at < now() - interval '1 minute' as stale
    from sign_in s join account a on a.id = s.account
      left join lateral (select json_object_agg(plan::text, role) as roles from plan_role where account = a.id) r on true
    where s.digest = $1 and a.disabled_at is null
      and s.seen_at > now() - $2 * interval '1 hour' and s.made_at > now() - $3 * interval '1 day'`,
  /** digest */
  signInSeen: "update sign_in set seen_at = now() where digest = $1",
  /** digest, account, agent, address, how */
  beginSignIn: "insert into sign_in (digest, account, agent, address, how) values ($1, $2, $3, $4, $5)",
  /** digest */
  endSignIn: "delete from sign_in where digest = $1",
  /** digest, account: notes that the browser has signed in to it */
  knowDevice: `
    insert into known_device (digest, account) values ($1, $2)
    on conflict (digest) do update set account = excluded.account, seen_at = now()`,
  /** digest, name */
  isKnownDevice: `
    select exists (select from known_device d join account a on a.id = d.account
                   where d.digest = $1 and lower(a.name) = lower($2)) as known`,
  /** account, digest that stays or null */
  endSignIns: "delete from sign_in where account = $1 and ($2::bytea is null or digest <> $2)",
  /** account, digest in hexadecimals */
  endOneSignIn: "delete from sign_in where account = $1 and encode(digest, 'hex') = $2",
  /** hours idle, days in all */
  forgetSignIns: `
    delete from sign_in where seen_at < now() - $1 * interval '1 hour' or made_at < now() - $2 * interval '1 day'`,
  /** account */
  signInsOf: `
    select encode(digest, 'hex') as id, agent, address, how, made_at as "madeAt", seen_at as "seenAt"
    from sign_in where account = $1 order by seen_at desc`,
  accounts: `
    select a.id::text, a.name, a.role, a.disabled_at as "disabledAt", a.made_at as "madeAt",
           a.password is not null as "hasPassword", a.subject is not null as "byProvider",
           (select count(*)::int from passkey p where p.account = a.id) as passkeys,
           (select max(s.seen_at) from sign_in s where s.account = a.id) as "seenAt",
           coalesce((select json_object_agg(r.plan::text, r.role) from plan_role r where r.account = a.id), '{}') as plans
    from account a order by lower(a.name)`,
  /** id */
  account: `
    select id::text, name, role, password, disabled_at as "disabledAt", issuer from account where id = $1`,
  /** name */
  accountByName: `
    select id::text, name, role, password, disabled_at as "disabledAt", issuer from account where lower(name) = lower($1)`,
  accountNames: "select name from account",
  /** tokens that were made before there were accounts: they would be an administrator's for ever */
  revokeOwnerless:
    "update token set revoked_at = now() where account is null and revoked_at is null returning id",
  /** name, role */
  insertAccount: "insert into account (name, role) values ($1, $2) returning id::text",
  /** role, issuer, subject: the account that a provider's person has, with the role that its groups give now */
  providerAccount: `
    update account set role = $1 where issuer = $2 and subject = $3
    returning id::text, disabled_at as "disabledAt"`,
  /** name, role, issuer, subject */
  addProviderAccount:
    "insert into account (name, role, issuer, subject) values ($1, $2, $3, $4) returning id::text",
  /** id, password or null */
  setPassword: "update account set password = $2 where id = $1",
  /** id, role */
  setRole: "update account set role = $2 where id = $1",
  /** id, whether */
  setDisabled:
    "update account set disabled_at = case when $2 then coalesce(disabled_at, now()) end where id = $1",
  /** holds the accounts, so that the last administrator stays */
  lockAccounts: "lock table account in share row exclusive mode",
  /** id: administrators that can sign in, besides this one */
  otherAdministrators: `
    select count(*)::int as count from account where role = 'administers' and disabled_at is null and id <> $1`,
  /** plan, account, role */
  setPlanRole: `
    insert into plan_role (plan, account, role)
    select p.id, a.id, $3 from plan p, account a where p.id = $1 and a.id = $2
    on conflict (plan, account) do update set role = excluded.role`,
  /** plan, account */
  dropPlanRole: "delete from plan_role where plan = $1 and account = $2",
  /** digest, account, by whom */
  invite: "insert into invitation (digest, account, made_by) values ($1, $2, $3)",
  /** digest, hours */
  invitation: `
    select i.account::text, a.name from invitation i join account a on a.id = i.account
    where i.digest = $1 and i.used_at is null and i.made_at > now() - $2 * interval '1 hour' and a.disabled_at is null`,
  /** digest, hours: used once */
  useInvitation: `
    update invitation i set used_at = now() from account a
    where i.digest = $1 and i.used_at is null and i.made_at > now() - $2 * interval '1 hour'
      and a.id = i.account and a.disabled_at is null
    returning i.account::text`,
  /** account */
  dropInvitations: "delete from invitation where account = $1 and used_at is null",
  /** value, account or null, purpose, detail */
  keepChallenge: "insert into challenge (value, account, purpose, detail) values ($1, $2, $3, $4)",
  /** value, purpose, minutes: given once */
  takeChallenge: `
    delete from challenge where value = $1 and purpose = $2 and made_at > now() - $3 * interval '1 minute'
    returning account::text, detail`,
  forgetChallenges: "delete from challenge where made_at < now() - interval '1 hour'",
  /** account */
  passkeysOf: `
    select id, name, transports, made_at as "madeAt", used_at as "usedAt" from passkey where account = $1 order by made_at`,
  /** id */
  passkey: `
    select p.id, p.account::text, p.public_key as "publicKey", p.counter::int8 as counter, p.transports,
           a.disabled_at as "disabledAt"
    from passkey p join account a on a.id = p.account where p.id = $1`,
  /** id, account, key, counter, transports, name */
  keepPasskey: `
    insert into passkey (id, account, public_key, counter, transports, name) values ($1, $2, $3, $4, $5, $6)
    on conflict do nothing`,
  /** id, counter */
  usedPasskey: "update passkey set counter = $2, used_at = now() where id = $1",
  /** account, id */
  dropPasskey: "delete from passkey where account = $1 and id = $2",
  /** digest, account, name, role, plan, days */
  insertToken: `
    insert into token (digest, account, name, role, plan, expires_at)
    values ($1, $2, $3, $4, $5, now() + $6 * interval '1 day') returning id::text`,
  /** account or null */
  tokensOf: `
    select id::text, name, role, plan::text, made_at as "madeAt", expires_at as "expiresAt", used_at as "usedAt",
           revoked_at as "revokedAt"
    from token where account is not distinct from $1::uuid order by id desc`,
  /** account or null, id */
  revokeToken: `
    update token set revoked_at = coalesce(revoked_at, now())
    where account is not distinct from $1::uuid and id = $2`,
  /** digest: nothing for a token without an account once there are accounts */
  findToken: `
    select u.account::text, u.name as token, u.role as scope, u.plan::text as plan, a.name, a.role,
           coalesce(r.roles, '{}') as plans,
           coalesce(u.used_at < now() - interval '1 minute', true) as stale
    from token u left join account a on a.id = u.account
      left join lateral (select json_object_agg(plan::text, role) as roles from plan_role where account = a.id) r on true
    where u.digest = $1 and u.revoked_at is null and u.expires_at > now()
      and case when u.account is null then not exists (select from account) else a.disabled_at is null end`,
  /** digest */
  tokenUsed: "update token set used_at = now() where digest = $1",
  /** name: whether the lock was acquired for the transaction; does not wait */
  holdName: "select pg_try_advisory_xact_lock(hashtextextended($1, 7)) as held",
  /** asker, key, hours */
  keptAnswer: `
    select request, status, headers, body from kept_answer
    where asker = $1 and key = $2 and at > now() - $3 * interval '1 hour'`,
  /** asker, key, request, status, headers, body */
  keepAnswer: `
    insert into kept_answer (asker, key, request, status, headers, body) values ($1, $2, $3, $4, $5, $6)
    on conflict (asker, key) do update set request = excluded.request, status = excluded.status,
      headers = excluded.headers, body = excluded.body, at = now()`,
  /** hours */
  forgetAnswers: "delete from kept_answer where at < now() - $1 * interval '1 hour'",
  /** request */
  isRecorded: "select from record where request = $1 limit 1",
  recordLock: "select pg_advisory_xact_lock(hashtext('iron-fork record'))",
  lastOfRecord: "select number::int8 as number, digest from record order by number desc limit 1",
  /** number, at, who, account, address, action, subject, status, request, detail, previous, digest */
  addToRecord: `
    insert into record (number, at, who, account, address, action, subject, status, request, detail, previous, digest)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
  /** after number, how many */
  recordAfter: `
    select number::int8 as number, at, who, account::text, address, action, subject, status, request, detail, previous, digest
    from record where number > $1 order by number limit $2`,
  /** before number, how many, user, plan, actions, from, to (each null for all): newest first */
  recordBefore: `
    select number::int8 as number, at, who, account::text, address, action, subject, status, request, detail, previous, digest
    from record
    where number < $1
      and ($3::text is null or who ilike '%' || $3 || '%')
      and ($4::text is null or subject ~ ('^(/api/v1)?/plans/' || $4 || '(/|$)'))
      and ($5::text[] is null or action = any($5))
      and ($6::timestamptz is null or at >= $6)
      and ($7::timestamptz is null or at < $7)
    order by number desc limit $2`,
} as const;

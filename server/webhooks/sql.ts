/** Every statement about webhooks. */
export const sql = {
  /** plan or null, url, secret, by whom */
  insert: "insert into webhook (plan, url, secret, made_by) values ($1, $2, $3, $4) returning id::text",
  /** plan */
  list: `
    select id::text, url, made_by as "madeBy", made_at as "madeAt", last_at as "lastAt", last_told as "lastTold"
    from webhook where plan = $1 order by id`,
  /** plan, id */
  drop: "delete from webhook where plan = $1 and id = $2",
  /** plan, event: one delivery for each webhook of the plan */
  tell: "insert into webhook_delivery (webhook, event) select id, $2 from webhook where plan = $1",
  /** bytes of a secret that is not sealed */
  unsealed: "select id::text, plan::text, url, secret from webhook where octet_length(secret) = $1",
  /** webhook, secret */
  seal: "update webhook set secret = $2 where id = $1",
  /** count, seconds until a retry, webhooks in progress: claims the oldest due delivery of each other webhook, so that
   * no two workers take the same one and no receiver delays another */
  claim: `
    update webhook_delivery d set tries = d.tries + 1, next_at = now() + $2 * interval '1 second'
    from webhook w
    where d.webhook = w.id and d.id in (
      select o.id from webhook h
        cross join lateral (
          select id from webhook_delivery
          where webhook = h.id and done_at is null and next_at <= now()
          order by next_at limit 1 for update skip locked) o
      where h.id <> all($3::bigint[]) limit $1)
    returning d.id::text, d.webhook::text, d.event, d.tries, w.url, w.plan::text, w.secret`,
  /** delivery, what came of it */
  done: "update webhook_delivery set done_at = now(), told = $2 where id = $1",
  /** delivery, seconds, what came of it */
  later: "update webhook_delivery set next_at = now() + $2 * interval '1 second', told = $3 where id = $1",
  /** webhook, what came of it */
  note: "update webhook set last_at = now(), last_told = $2 where id = $1",
  /** days */
  forget: "delete from webhook_delivery where done_at < now() - $1 * interval '1 day'",
} as const;

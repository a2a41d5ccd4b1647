import { Link } from "react-router";
import { deviceHref } from "../search/links.ts";
import { usePlan } from "./open-plan.tsx";

const address =
  /(?<![\w:.])(?:\d{1,3}(?:\.\d{1,3}){3}(?:\/\d{1,2})?|[0-9a-f]{0,4}(?::[0-9a-f]{0,4}){2,7}(?:\/\d{1,3})?)(?![\w:])/gi;

/**
 * A sentence in which device names lead to their devices and addresses to a lookup on the device that
 * was named last, or on `here`.
 */
export function Told({ text, here }: { text: string; here?: string }) {
  const { planId, params, labels } = usePlan();
  const ids = labels.devices;
  const parts: React.ReactNode[] = [];
  let last = here;
  let at = 0;
  const tokens = new RegExp(`${address.source}|[a-z0-9][a-z0-9-]*`, "gi");
  for (const match of text.matchAll(tokens)) {
    const [token] = match;
    const label = ids.get(token);
    const isAddress = label === undefined && (token.includes(".") || token.includes(":"));
    if (label === undefined && !isAddress) continue;
    parts.push(text.slice(at, match.index));
    at = match.index + token.length;
    if (label !== undefined) {
      last = token;
      parts.push(
        <Link key={match.index} className="name-link font-medium" to={deviceHref(planId, token, params)}>
          {label}
        </Link>,
      );
    } else if (last) {
      parts.push(
        <Link
          key={match.index}
          className="name-link addr"
          to={deviceHref(planId, last, params, { lookup: token })}
        >
          {token}
        </Link>,
      );
    } else {
      parts.push(
        <span key={match.index} className="addr">
          {token}
        </span>,
      );
    }
  }
  parts.push(text.slice(at));
  return <>{parts}</>;
}

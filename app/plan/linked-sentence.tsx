import { Link } from "react-router";
import { deviceHref } from "../search/links.ts";
import { Coded } from "../ui/coded.tsx";
import { usePlan } from "./open-plan.tsx";
import { partsOf } from "./sentence-parts.ts";

/**
 * A sentence in which device names lead to their devices and addresses to a lookup on the device that
 * was named last, or on `here`; everything by the name that people use.
 */
export function LinkedSentence({ text, here }: { text: string; here?: string }) {
  const { planId, params, labels } = usePlan();
  return (
    <>
      {partsOf(text, labels, here).map((part, n) => {
        const key = `${n} ${part.text}`;
        if (part.kind === "device")
          return (
            <Link key={key} className="name-link font-medium" to={deviceHref(planId, part.device, params)}>
              {part.text}
            </Link>
          );
        if (part.kind === "address")
          return part.device === undefined ? (
            <span key={key} className="addr">
              {part.text}
            </span>
          ) : (
            <Link
              key={key}
              className="name-link addr"
              to={deviceHref(planId, part.device, params, { lookup: part.text })}
            >
              {part.text}
            </Link>
          );
        return part.kind === "name" ? (
          <span key={key} className="font-medium">
            {part.text}
          </span>
        ) : (
          <Coded key={key} text={part.text} />
        );
      })}
    </>
  );
}

import { Link, useLocation } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { toggleHref } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { PopoverBox } from "../../ui/popover.tsx";

/** Risks, sites and links under others, each failed or restored whole by one click. */
export function FatesMenu() {
  const { frame, params } = usePlan();
  const { pathname } = useLocation();
  if (frame.fates.length === 0) return null;
  const down = params.getAll("down");
  return (
    <PopoverBox label="Shared risks" trigger={<Button>Shared risks</Button>}>
      <ul className="flex max-h-72 flex-col gap-1 overflow-y-auto">
        {frame.fates.map(({ ref, label }) => {
          const failed = down.includes(ref);
          const kind = ref.slice(0, ref.indexOf(":"));
          return (
            <li key={ref} className="flex items-baseline gap-2">
              <span className={failed ? "text-stop line-through" : ""}>{label}</span>
              <span className="text-[13px] text-ink-2">{kind}</span>
              <Link
                to={toggleHref(pathname, params, ref)}
                className="name-link ml-auto"
                aria-label={`${failed ? "Restore" : "Fail"} the ${kind} ${label}`}
              >
                {failed ? "restore" : "fail"}
              </Link>
            </li>
          );
        })}
      </ul>
    </PopoverBox>
  );
}

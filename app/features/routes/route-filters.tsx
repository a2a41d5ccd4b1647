import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { parsePrefix } from "../../../core/address/index.ts";
import { HiddenParams } from "../../plan/hidden-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { RoutesAnswer } from "../../queries/routes.ts";
import { withParam, withParams } from "../../search/links.ts";
import type { RouteFilter } from "../../search/route-filter.ts";
import { Button } from "../../ui/button.tsx";
import { PopoverBox } from "../../ui/popover.tsx";
import { ChooseOne, ChooseSome } from "../../ui/toggle-group.tsx";
import { columnNames } from "./route-table.tsx";

const states = [
  { value: "in-use", text: "active" },
  { value: "standby", text: "standby" },
  { value: "unusable", text: "unusable" },
  { value: "disabled", text: "disabled" },
];

const relations = [
  { value: "exact", text: "exact match" },
  { value: "covering", text: "covering" },
  { value: "covered", text: "more specific" },
];

/** How long typing rests before the table follows. */
const REST_MS = 150;

/** The displayed routes by text, state and source, all from the page's address. */
export function RouteFilters({ answer, filter }: { answer: RoutesAnswer; filter: RouteFilter }) {
  const { params, labels } = usePlan();
  const navigate = useNavigate();
  const [text, setText] = useState(filter.text);
  const go = (href: string) => navigate(href, { replace: true, preventScrollReset: true });
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing changes the address, after a pause.
  useEffect(() => {
    if (text.trim() === filter.text) return;
    const timer = setTimeout(() => go(withParam(params, "find", text.trim() || null)), REST_MS);
    return () => clearTimeout(timer);
  }, [text]);
  return (
    <form
      method="get"
      aria-label="Filter the routes"
      onSubmit={(event) => event.preventDefault()}
      className="flex flex-wrap items-center gap-x-3 gap-y-2"
    >
      <HiddenParams but={["find"]} />
      <input
        name="find"
        value={text}
        onChange={(event) => setText(event.target.value)}
        aria-label="Prefix, address, next hop, device or interface"
        placeholder="prefix, address, next hop, device"
        className="field addr w-72"
        spellCheck={false}
      />
      {parsePrefix(text.trim()) && text.includes("/") && (
        <ChooseOne
          label="Destinations"
          options={relations}
          value={filter.relation}
          onChange={(relation) => go(withParam(params, "relation", relation))}
        />
      )}
      <ChooseSome
        label="States"
        options={states}
        values={filter.states}
        onChange={(values) => go(withParams(params, "state", values))}
      />
      <ChooseSome
        label="Sources"
        options={answer.sources.map((source) => ({ value: source, text: source }))}
        values={filter.sources}
        onChange={(values) => go(withParams(params, "source-of-route", values))}
      />
      <PopoverBox label="Columns" className="w-auto" trigger={<Button>Columns</Button>}>
        <ChooseSome
          label="Columns"
          options={columnNames}
          values={columnNames
            .map(({ value }) => value)
            .filter((value) => !params.getAll("hide").includes(value))}
          onChange={(shown) =>
            go(
              withParams(
                params,
                "hide",
                columnNames.map(({ value }) => value).filter((value) => !shown.includes(value)),
              ),
            )
          }
        />
      </PopoverBox>
      {filter.device !== "" && (
        <Button onClick={() => go(withParam(params, "only", null))}>
          Only {labels.devices.get(filter.device) ?? filter.device} ×
        </Button>
      )}
    </form>
  );
}

import { usePlan } from "../../plan/open-plan.tsx";

const report = [
  {
    as: "html",
    text: "Report (HTML)",
    what: "drawing, flow resilience, findings, a page for each device, and the history",
  },
  { as: "pdf", text: "Report (PDF)", what: "the same, to print" },
  { as: "drawing-pdf", text: "Drawing (PDF)", what: "the map on one page" },
  { as: "drawing-svg", text: "Drawing (SVG)", what: "the map, to edit or embed" },
];

const forms = [
  {
    as: "ietf-json",
    text: "IETF models (JSON)",
    what: "interfaces and static routes of each device, as RESTCONF takes them",
  },
  { as: "ietf-xml", text: "IETF models (XML)", what: "the same for NETCONF" },
  { as: "iproute2", text: "iproute2 batches", what: "one batch file per device, with IPv4 and IPv6 routes" },
  { as: "csv", text: "Lists (CSV)", what: "interfaces, routes and links, for spreadsheets" },
  { as: "topology", text: "Topology (RFC 8345)", what: "nodes and links for other tools" },
];

/** The plan written for people, for devices and for other tools. */
export function OutView() {
  const { page } = usePlan();
  const { planId, revision } = page;
  return (
    <>
      <Exports
        title="Network report"
        items={report.map(({ as, ...item }) => ({
          ...item,
          href: `/plans/${planId}/network-report?as=${as}&revision=${revision}`,
          opens: as === "html",
        }))}
      />
      <Exports
        title="Device configurations and plan document"
        items={[
          ...forms.map(({ as, ...item }) => ({
            ...item,
            href: `/plans/${planId}/out?as=${as}&revision=${revision}`,
          })),
          {
            text: "Plan document (YAML)",
            what: "the whole plan, for version control, the command line or another workspace",
            href: `/plans/${planId}/document?format=yaml&revision=${revision}`,
          },
        ]}
      />
    </>
  );
}

interface ExportsProps {
  title: string;
  items: readonly { text: string; what: string; href: string; opens?: boolean }[];
}

function Exports({ title, items }: ExportsProps) {
  return (
    <section aria-label={title} className="mt-3 max-w-4xl">
      <h2 className="font-semibold font-sign text-[20px]">{title}</h2>
      <ul className="mt-1">
        {items.map(({ text, what, href, opens }) => (
          <li key={text} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-rule border-t py-1.5">
            <a
              className="button w-52 justify-start"
              href={href}
              {...(opens ? { target: "_blank", rel: "noreferrer" } : { download: true })}
            >
              {text}
            </a>
            <span className="text-ink-2">{what}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

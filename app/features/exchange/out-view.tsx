import { usePlan } from "../../plan/open-plan.tsx";

const forms = [
  { as: "ietf-json", text: "IETF models as JSON" },
  { as: "ietf-xml", text: "IETF models as XML" },
  { as: "iproute2", text: "iproute2 batches" },
  { as: "csv", text: "lists (CSV)" },
  { as: "topology", text: "topology (RFC 8345)" },
];

/** The plan written for devices and other tools, each form an archive. */
export function OutView() {
  const { page } = usePlan();
  const book = (as: string) => `/plans/${page.planId}/network-report?as=${as}&revision=${page.revision}`;
  return (
    <>
      <section aria-label="Network report" className="mt-3">
        <h2 className="font-semibold font-sign text-[20px]">Network report</h2>
        <p className="text-ink-2">
          Drawing, flow resilience, findings, a page for each device, and the history.
        </p>
        <p className="mt-1 flex flex-wrap gap-4">
          <a className="name-link" href={book("html")} target="_blank" rel="noreferrer">
            report (HTML)
          </a>
          <a className="name-link" href={book("pdf")} download>
            report (PDF)
          </a>
          <a className="name-link" href={book("drawing-pdf")} download>
            drawing (PDF)
          </a>
          <a className="name-link" href={book("drawing-svg")} download>
            drawing (SVG)
          </a>
        </p>
      </section>
      <section aria-label="Device configurations" className="mt-3">
        <h2 className="font-semibold font-sign text-[20px]">Device configurations and plan document</h2>
        <p className="mt-1 flex flex-wrap gap-4">
          {forms.map(({ as, text }) => (
            <a
              key={as}
              className="name-link"
              href={`/plans/${page.planId}/out?as=${as}&revision=${page.revision}`}
              download
            >
              {text}
            </a>
          ))}
          <a
            className="name-link"
            href={`/plans/${page.planId}/document?format=yaml&revision=${page.revision}`}
          >
            plan document
          </a>
        </p>
      </section>
    </>
  );
}

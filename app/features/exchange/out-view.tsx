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
  const book = (as: string) => `/plans/${page.planId}/book?as=${as}&revision=${page.revision}`;
  return (
    <>
      <section aria-label="On paper" className="mt-3">
        <h2 className="font-semibold font-sign text-[20px]">On paper</h2>
        <p className="text-ink-2">
          The book of the network: its drawing, what the flows survive, the findings, a page for each device,
          the history.
        </p>
        <p className="mt-1 flex flex-wrap gap-4">
          <a className="name-link" href={book("html")} target="_blank" rel="noreferrer">
            the book, to read and print
          </a>
          <a className="name-link" href={book("pdf")} download>
            the book as PDF
          </a>
          <a className="name-link" href={book("drawing-pdf")} download>
            the drawing as PDF
          </a>
          <a className="name-link" href={book("drawing-svg")} download>
            the drawing as SVG
          </a>
        </p>
      </section>
      <section aria-label="Out" className="mt-3">
        <h2 className="font-semibold font-sign text-[20px]">For devices and other tools</h2>
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
            the plan's document
          </a>
        </p>
      </section>
    </>
  );
}

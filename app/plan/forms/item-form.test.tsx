// @vitest-environment happy-dom
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { applyEdit, type Edit, type Plan } from "../../../core/plan/index.ts";
import { onPage } from "../../../tests/support/open-plan.tsx";
import "../../../tests/support/page.ts";
import { demoPlan } from "../../../tests/support/plans.ts";
import { flowForm } from "./flow-form.ts";
import { type FormSpec, ItemForm } from "./item-form.tsx";
import { linkForm } from "./link-form.ts";
import { outageForm } from "./outage-form.ts";

const plan = demoPlan("marrow-bay");
const user = userEvent.setup();

interface Drawn {
  edits: Edit[];
  done: string[];
}

function Form({ spec, edits, done }: Drawn & { spec: FormSpec }) {
  const [saved, setSaved] = useState<number | null>(null);
  const save = (edit: Edit) => {
    edits.push(edit);
    setSaved((now) => (now ?? 0) + 1);
  };
  const editing = { save, busy: false, saved, errors: [] };
  return <ItemForm spec={spec} editing={editing} onDone={(what) => done.push(what)} />;
}

/** Renders a form; the edits it would save are collected in the returned lists. */
function draw(spec: FormSpec): Drawn {
  const drawn: Drawn = { edits: [], done: [] };
  render(onPage(plan, <Form spec={spec} {...drawn} />).drawn);
  return drawn;
}

function withEdit(edits: readonly Edit[]): Plan {
  const outcome = applyEdit(plan, edits[0]);
  if (!outcome.ok) throw new Error(outcome.errors[0].message);
  return outcome.plan;
}

describe("a form", () => {
  it("opened and saved without a change saves nothing", async () => {
    const { edits, done } = draw(flowForm(plan, plan.flows[0]));
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(edits).toEqual([]);
    expect(done).toEqual(["saved"]);
  });

  it("tells what is wrong beside its field, takes the focus there, and keeps what was typed", async () => {
    const { edits } = draw(flowForm(plan, null));
    await user.type(screen.getByLabelText("Name"), "Desk to nowhere");
    await user.type(screen.getByLabelText("From"), "no-such-device");
    await user.type(screen.getByLabelText("To"), "192.0.2.1");
    await user.click(screen.getByRole("button", { name: "Add flow" }));
    const from = screen.getByLabelText("From") as HTMLInputElement;
    const told = document.getElementById(from.getAttribute("aria-describedby") ?? "");
    expect(told?.textContent).toBe("there is no device no-such-device");
    expect(from.getAttribute("aria-invalid")).toBe("true");
    expect(from.value).toBe("no-such-device");
    expect((screen.getByLabelText("To") as HTMLInputElement).value).toBe("192.0.2.1");
    await new Promise((rested) => requestAnimationFrame(rested));
    expect(document.activeElement).toBe(from);
    expect(edits).toEqual([]);
  });

  it("shows a field only where it makes sense: a port once the protocol has ports", async () => {
    draw(flowForm(plan, null));
    expect(screen.queryByLabelText("Port")).toBeNull();
    screen.getByLabelText("Protocol").focus();
    await user.keyboard("{Enter}");
    await user.click(screen.getByRole("option", { name: "tcp" }));
    expect(screen.getByLabelText("Port")).not.toBeNull();
  });

  it("that removes what others refer to lists what goes with it before it does", async () => {
    const link = plan.links.find((entry) =>
      plan.outages.some((o) => JSON.stringify(o).includes(`link:${entry.id}"`)),
    );
    if (!link) throw new Error("no saved outage of the demo fails a link");
    const { edits, done } = draw(linkForm(plan, link));
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(edits).toEqual([]);
    expect(screen.getByRole("alertdialog").textContent).toMatch(/also removes or changes/);
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(withEdit(edits).links.some((entry) => entry.id === link.id)).toBe(false);
    expect(done).toEqual(["removed"]);
  });
});

describe("the form of an outage", () => {
  it("opens another step as soon as the last is written, and saves them as the plan has them", async () => {
    const { edits } = draw(outageForm(plan, null));
    const [a, b] = plan.links.map((entry) => `link:${entry.id}`);
    await user.type(screen.getByLabelText("Name"), "North, then all");
    await user.type(screen.getByLabelText("Fails"), a);
    expect(screen.getAllByLabelText("Fails")).toHaveLength(2);
    await user.type(screen.getByLabelText("Time of another step"), "5 s");
    await user.type(screen.getAllByLabelText("Fails")[1], b);
    await user.type(screen.getAllByLabelText("Restored")[1], a);
    await user.click(screen.getByRole("button", { name: "Add outage" }));
    expect(withEdit(edits).outages.at(-1)).toEqual({
      id: "north-then-all",
      label: "North, then all",
      steps: [
        { atMs: 0, fail: [a] },
        { atMs: 5000, fail: [b], restore: [a] },
      ],
    });
  });

  it("tells an element that is not there beside its own step", async () => {
    draw(outageForm(plan, null));
    await user.type(screen.getByLabelText("Name"), "Wrong");
    await user.type(screen.getByLabelText("Fails"), `link:${plan.links[0].id}`);
    await user.type(screen.getAllByLabelText("Fails")[1], "link:nowhere");
    await user.click(screen.getByRole("button", { name: "Add outage" }));
    const [first, second] = screen.getAllByLabelText("Fails");
    expect(first.getAttribute("aria-invalid")).toBeNull();
    const told = document.getElementById(second.getAttribute("aria-describedby") ?? "");
    expect(told?.textContent).toBe("there is no link nowhere");
  });

  it("asks what it is called, and what fails", async () => {
    const { edits } = draw(outageForm(plan, null));
    await user.click(screen.getByRole("button", { name: "Add outage" }));
    expect(screen.getByRole("alert").textContent).toBe("enter a name");
    await user.type(screen.getByLabelText("Name"), "Empty");
    await user.click(screen.getByRole("button", { name: "Add outage" }));
    expect(screen.getByRole("alert").textContent).toContain("choose at least one element");
    expect(edits).toEqual([]);
  });

  it("takes a time with its unit only", async () => {
    const { edits } = draw(outageForm(plan, plan.outages[0]));
    const time = screen.getByLabelText("Time of step 1");
    await user.clear(time);
    await user.type(time, "2000");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(screen.getByRole("alert").textContent).toContain("such as 500 ms, 2 s or 1 min");
    expect(edits).toEqual([]);
  });

  it("shows labels and keeps references", async () => {
    const link = plan.links.find((entry) => entry.label !== undefined);
    const { edits } = draw(outageForm(plan, null));
    await user.type(screen.getByLabelText("Name"), "By label");
    await user.type(screen.getByLabelText("Fails"), `${link?.label},`);
    expect(screen.getByTitle(`link:${link?.id}`).textContent).toContain(link?.label);
    await user.click(screen.getByRole("button", { name: "Add outage" }));
    expect(withEdit(edits).outages.at(-1)?.steps).toEqual([{ atMs: 0, fail: [`link:${link?.id}`] }]);
  });

  it("of a saved one changes a step and leaves the others", async () => {
    const outage = plan.outages.find((entry) => entry.steps.length > 1);
    if (!outage) throw new Error("no saved outage of the demo has two steps");
    const { edits } = draw(outageForm(plan, outage));
    const time = screen.getByLabelText("Time of step 2");
    await user.clear(time);
    await user.type(time, "77 s");
    await user.click(screen.getByRole("button", { name: "Save" }));
    const now = withEdit(edits).outages.find((entry) => entry.id === outage.id);
    expect(now?.steps).toEqual(outage.steps.map((step, i) => (i === 1 ? { ...step, atMs: 77_000 } : step)));
  });
});

// @vitest-environment happy-dom
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { MemoryRouter } from "react-router";
import { describe, expect, it, vi } from "vitest";
import "../../tests/support/page.ts";
import { Combobox } from "./combobox.tsx";
import { Confirm, Window } from "./dialog.tsx";
import { Menu } from "./menu.tsx";
import { Pick } from "./select.tsx";
import { TabSet } from "./tabs.tsx";
import { Notice, ToastProvider } from "./toast.tsx";
import { ChooseOne, ChooseSome } from "./toggle-group.tsx";
import { Tip, TooltipProvider } from "./tooltip.tsx";

const user = userEvent.setup();

/** A field that completes names of devices. */
function Field({ onTake, nothing }: { onTake: (text: string) => void; nothing?: string }) {
  const [text, setText] = useState("");
  const all = ["tern-edge", "tern-office", "gull-edge"];
  return (
    <Combobox
      value={text}
      onText={setText}
      choices={text ? all.filter((name) => name.startsWith(text)) : []}
      keyOf={(name) => name}
      draw={(name) => name}
      onTake={onTake}
      tabTakes
      nothing={nothing}
      label="Device"
      listLabel="Devices"
      input={{}}
      listClass=""
    />
  );
}

function Told() {
  const [open, setOpen] = useState(true);
  return <Notice text="the change could not be saved" grave open={open} onOpenChange={setOpen} />;
}

describe("a window over the page", () => {
  const drawn = () =>
    render(
      <Window title="Add flow" about="Who sends what." trigger={<button type="button">Open</button>}>
        <input aria-label="Name" />
      </Window>,
    );

  it("opens on its button, is named and described, and keeps the focus within", async () => {
    drawn();
    await user.click(screen.getByRole("button", { name: "Open" }));
    const dialog = screen.getByRole("dialog", { name: "Add flow" });
    expect(dialog.getAttribute("aria-describedby")).not.toBeNull();
    expect(dialog.contains(document.activeElement)).toBe(true);
    for (let i = 0; i < 4; i++) {
      await user.tab();
      expect(dialog.contains(document.activeElement)).toBe(true);
    }
  });

  it("closes on Escape, and the focus goes back to the button", async () => {
    drawn();
    await user.click(screen.getByRole("button", { name: "Open" }));
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("dialog")).toBeNull();
    expect(document.activeElement).toBe(screen.getByRole("button", { name: "Open" }));
  });
});

describe("a question before something is taken away", () => {
  it("does it on the button that says so, and on no other", async () => {
    const confirmed = vi.fn();
    render(
      <Confirm
        title="Remove Tern?"
        action="Remove"
        onConfirm={confirmed}
        trigger={<button type="button">Go</button>}
      >
        Two links go with it.
      </Confirm>,
    );
    await user.click(screen.getByRole("button", { name: "Go" }));
    const asked = screen.getByRole("alertdialog", { name: "Remove Tern?" });
    expect(asked.textContent).toContain("Two links go with it.");
    await user.click(within(asked).getByRole("button", { name: "Cancel" }));
    expect(confirmed).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Go" }));
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(confirmed).toHaveBeenCalledOnce();
  });
});

describe("a menu", () => {
  it("is walked by arrows, passes over what cannot be done, and does what Enter is pressed on", async () => {
    const done: string[] = [];
    render(
      <MemoryRouter>
        <Menu
          trigger={<button type="button">More</button>}
          items={[
            { text: "Fail it", run: () => done.push("fail") },
            { text: "Rename it", disabled: true, run: () => done.push("rename") },
            { text: "Remove it", danger: true, run: () => done.push("remove") },
          ]}
        />
      </MemoryRouter>,
    );
    screen.getByRole("button", { name: "More" }).focus();
    await user.keyboard("{Enter}");
    expect(screen.getAllByRole("menuitem").map((item) => item.textContent)).toEqual([
      "Fail it",
      "Rename it",
      "Remove it",
    ]);
    await user.keyboard("{ArrowDown}{Enter}");
    expect(done).toEqual(["remove"]);
    expect(screen.queryByRole("menu")).toBeNull();
  });
});

describe("a field with a list of what it could mean", () => {
  it("tells by its role and state what is open, and takes what the arrows chose", async () => {
    const taken = vi.fn();
    render(<Field onTake={taken} />);
    const field = screen.getByRole("combobox", { name: "Device" });
    expect(field.getAttribute("aria-expanded")).toBe("false");
    await user.type(field, "tern");
    expect(field.getAttribute("aria-expanded")).toBe("true");
    expect(screen.getAllByRole("option")).toHaveLength(2);
    await user.keyboard("{ArrowDown}{ArrowDown}");
    expect(field.getAttribute("aria-activedescendant")).toBe(screen.getAllByRole("option")[1].id);
    await user.keyboard("{Enter}");
    expect(taken).toHaveBeenCalledWith("tern-office");
  });

  it("leaves Enter to the form where nothing is chosen; Tab takes the first", async () => {
    const taken = vi.fn();
    render(<Field onTake={taken} />);
    await user.type(screen.getByRole("combobox"), "tern{Enter}");
    expect(taken).not.toHaveBeenCalled();
    await user.keyboard("{Tab}");
    expect(taken).toHaveBeenCalledWith("tern-edge");
  });

  it("says so where nothing fits", async () => {
    render(<Field onTake={() => {}} nothing="no device is called so" />);
    await user.type(screen.getByRole("combobox"), "puffin");
    expect(screen.getByRole("option").textContent).toBe("no device is called so");
  });
});

describe("a choice of a list", () => {
  it("shows what is chosen and takes another; nothing is a choice too", async () => {
    const changed = vi.fn();
    const choices = [
      { value: "", label: "any" },
      { value: "tcp", label: "TCP" },
    ];
    render(<Pick aria-label="Protocol" value="" onChange={changed} choices={choices} />);
    const field = screen.getByRole("combobox", { name: "Protocol" });
    expect(field.textContent).toContain("any");
    field.focus();
    await user.keyboard("{Enter}");
    await user.click(screen.getByRole("option", { name: "TCP" }));
    expect(changed).toHaveBeenCalledWith("tcp");
  });

  it("of a few, all in sight, cannot be left without one", async () => {
    const changed = vi.fn();
    const options = [
      { value: "exact", text: "exact match" },
      { value: "covered", text: "more specific" },
    ];
    render(<ChooseOne label="Destinations" options={options} value="exact" onChange={changed} />);
    await user.click(screen.getByRole("radio", { name: "exact match" }));
    expect(changed).not.toHaveBeenCalledWith("");
    await user.click(screen.getByRole("radio", { name: "more specific" }));
    expect(changed).toHaveBeenLastCalledWith("covered");
  });

  it("of parts of one thing is walked by arrows, and shows the part that is chosen", async () => {
    const tabs = ["First", "Second"].map((text) => ({ value: text, text, body: `${text} part` }));
    render(<TabSet label="Parts" tabs={tabs} />);
    screen.getByRole("tab", { name: "First" }).focus();
    await user.keyboard("{ArrowRight}");
    expect(screen.getByRole("tab", { name: "Second" }).getAttribute("aria-selected")).toBe("true");
    expect(screen.getByRole("tabpanel").textContent).toBe("Second part");
  });

  it("of several adds and takes away", async () => {
    const changed = vi.fn();
    const options = ["active", "standby"].map((value) => ({ value, text: value }));
    render(<ChooseSome label="States" options={options} values={["active"]} onChange={changed} />);
    await user.click(screen.getByRole("button", { name: "standby" }));
    expect(changed).toHaveBeenLastCalledWith(["active", "standby"]);
    await user.click(screen.getByRole("button", { name: "active" }));
    expect(changed).toHaveBeenLastCalledWith([]);
  });
});

describe("what is told", () => {
  it("by a notice stays until it is closed where it is grave, and is an alert", async () => {
    render(
      <ToastProvider>
        <Told />
      </ToastProvider>,
    );
    expect(screen.getByRole("alert").textContent).toBe("the change could not be saved");
    await user.click(screen.getByRole("button", { name: "Close notification" }));
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("by a tip is there for the keyboard as well", async () => {
    render(
      <TooltipProvider>
        <Tip text="Remove the route">
          <button type="button">×</button>
        </Tip>
      </TooltipProvider>,
    );
    await user.tab();
    expect((await screen.findByRole("tooltip")).textContent).toContain("Remove the route");
  });
});

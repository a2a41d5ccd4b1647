// @vitest-environment happy-dom
import { act, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../../core/scenario/index.ts";
import { onPage } from "../../../tests/support/open-plan.tsx";
import "../../../tests/support/page.ts";
import { demoPlan } from "../../../tests/support/plans.ts";
import { sweptBoard } from "../../queries/board.ts";
import { boardLookOf, withBoardLook } from "../../search/board-look.ts";
import { BoardHead } from "./board-head.tsx";
import type { Sweep } from "./sweep.ts";
import { useBoardLook } from "./use-board-look.ts";

const plan = demoPlan("marrow-bay");
const model = NetworkModel.compile(plan);
const board = sweptBoard(model, model, 1);
const user = userEvent.setup();

function Head() {
  const { look, change } = useBoardLook();
  const sweep: Sweep = {
    of: "",
    board,
    covered: 1,
    found: 0,

    state: "done",
    error: "",
    onServer: false,
  };
  return (
    <BoardHead
      asking={{ sweep, stop: () => {}, restart: () => {}, depth: 1, shown: 1 }}
      look={look}
      onLook={change}
      anyFolded={look.foldedRows.length > 0}
      onFoldAll={() => change({ foldedRows: ["office"] })}
    />
  );
}

describe("how the board is arranged", () => {
  it("is what its address says, and the address says what was chosen", async () => {
    const { drawn, router } = onPage(plan, <Head />, "?down=link:north-ring&breaking=1&find=fibre");
    render(drawn);
    expect(screen.getByRole("button", { name: "Breaking only" }).getAttribute("aria-pressed")).toBe("true");
    expect((screen.getByLabelText("Filter flows and failures") as HTMLInputElement).value).toBe("fibre");
    await user.click(screen.getByRole("button", { name: "Group by site" }));
    await user.click(screen.getByRole("button", { name: "Fold all" }));
    await user.type(screen.getByLabelText("Filter flows and failures"), " ring");
    await waitFor(() => {
      const params = new URLSearchParams(router.state.location.search);
      expect(params.get("find")).toBe("fibre ring");
      expect(params.getAll("fold-flows")).toEqual(["office"]);
      expect(params.has("by-site")).toBe(true);
      expect(params.get("down")).toBe("link:north-ring");
    });
  });

  it("follows an address that somebody else wrote", async () => {
    const { drawn, router } = onPage(plan, <Head />, "?breaking=1");
    render(drawn);
    await act(() => router.navigate("?interfaces=1&find=tern"));
    expect(screen.getByRole("button", { name: "Include interfaces" }).getAttribute("aria-pressed")).toBe(
      "true",
    );
    expect(screen.getByRole("button", { name: "Breaking only" }).getAttribute("aria-pressed")).toBe("false");
    expect((screen.getByLabelText("Filter flows and failures") as HTMLInputElement).value).toBe("tern");
  });

  it("is read from an address as it was written into it", () => {
    const look = {
      interfaces: true,
      bySite: true,
      onlyBreaking: false,
      text: "fibre & <ring>",
      foldedRows: ["", "office"],
      foldedColumns: ["data hall"],
    };
    const written = withBoardLook(new URLSearchParams("down=link:a&depth=2"), look);
    expect(boardLookOf(new URLSearchParams(written.toString()))).toEqual(look);
    expect(written.get("down")).toBe("link:a");
    const plain = withBoardLook(written, boardLookOf(new URLSearchParams()));
    expect(plain.toString()).toBe(new URLSearchParams("down=link:a&depth=2").toString());
  });
});

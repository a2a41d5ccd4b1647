import { expect, it } from "vitest";
import { NetworkModel } from "../../core/index.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { viewOf } from "../search/view.ts";
import { answer } from "./answer.ts";
import { packFrame, unpackFrame } from "./packed-frame.ts";

it("a frame comes out as it went in, and is smaller in between", () => {
  const model = NetworkModel.compile(demoPlan("marrow-bay"));
  const view = viewOf(new URLSearchParams("down=link:tern-north"));
  const frame = answer("frame", model, model, view);
  const packed = packFrame(frame);
  expect(unpackFrame(packed)).toEqual(frame);
  expect(JSON.stringify(packed).length).toBeLessThan(0.75 * JSON.stringify(frame).length);
  const empty = { ...frame, flows: [], gateways: [], devices: [], links: [] };
  expect(unpackFrame(packFrame(empty))).toEqual(empty);
});

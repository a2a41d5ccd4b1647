import { expect, it } from "vitest";
import { demoPlan, engineOf } from "../../tests/support/plans.ts";
import { elementCount, type State } from "../network/index.ts";
import { settle } from "../settle/index.ts";
import { SteadyStates } from "./steady-states.ts";

/** The arrays of a state as they are now. */
const copied = (state: State) =>
  Object.fromEntries(
    (["carrier", "interfaceUp", "linkAlive", "deviceAlive", "watchUp", "answers"] as const).map((key) => [
      key,
      [...state[key]],
    ]),
  );

it("gives the states that are settled by themselves, and leaves each as it is until so many others came", () => {
  const engine = engineOf(demoPlan("marrow-bay"));
  const states = new SteadyStates(engine, 3);
  const asked: { element: number; state: State }[] = [];
  for (let element = 0; element < elementCount(engine.network); element++) {
    const { state } = states.under([element]).world;
    asked.push({ element, state });
    // The last three are never written over, whatever their age.
    for (const one of asked.slice(-3))
      expect(copied(one.state)).toEqual(copied(settle(engine, [one.element]).world.state));
    expect(states.under([element]).world.state).toBe(state);
  }
});

it("leaves a state that is asked for again as it is until so many others came after that", () => {
  const engine = engineOf(demoPlan("marrow-bay"));
  const most = 3;
  for (let apart = 0; apart < 2 * most; apart++) {
    const states = new SteadyStates(engine, most);
    const alone = copied(settle(engine, [0]).world.state);
    states.under([0]);
    for (let element = 1; element <= apart; element++) states.under([element]);
    const { state } = states.under([0]).world;
    for (let element = 1; element <= most; element++) {
      states.under([apart + element]);
      expect(copied(state)).toEqual(alone);
    }
  }
});

import { useEffect, useRef, useState } from "react";
import { useNavigate, useNavigation } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { type BoardLook, boardLookOf, withBoardLook } from "../../search/board-look.ts";

/** How long typing rests before the address follows. */
const REST_MS = 250;

export interface BoardLooking {
  look: BoardLook;
  change: (change: Partial<BoardLook>) => void;
  /** Goes to an address of the board, how it is arranged now among it. */
  goTo: (params: URLSearchParams) => void;
}

/** How the board is arranged, kept in the page's address; the board follows at once, the address once it rests. */
export function useBoardLook(): BoardLooking {
  const { params } = usePlan();
  const navigate = useNavigate();
  const { state } = useNavigation();
  const said = withBoardLook(new URLSearchParams(), boardLookOf(params)).toString();
  const [look, setLook] = useState(() => boardLookOf(params));
  const wanted = withBoardLook(new URLSearchParams(), look).toString();
  const written = useRef(said);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  // Follows an address that changed from outside, by a link or by going back.
  const [followed, setFollowed] = useState(said);
  if (said !== followed) {
    setFollowed(said);
    if (said !== wanted && said !== written.current) setLook(boardLookOf(params));
    written.current = said;
  }
  useEffect(() => {
    // While a navigation is pending, the address is outdated.
    if (wanted === written.current || state !== "idle") return;
    timer.current = setTimeout(() => {
      written.current = wanted;
      navigate(`?${withBoardLook(params, look)}`, { replace: true, preventScrollReset: true });
    }, REST_MS);
    return () => clearTimeout(timer.current);
  }, [wanted, look, params, navigate, state]);
  return {
    look,
    change: (change) => setLook((now) => ({ ...now, ...change })),
    goTo: (next) => {
      clearTimeout(timer.current);
      written.current = wanted;
      navigate(`?${withBoardLook(next, look)}`, { preventScrollReset: true });
    },
  };
}

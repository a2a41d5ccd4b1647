import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { type BoardLook, boardLookOf, withBoardLook } from "../../search/board-look.ts";

/** How long typing rests before the address follows. */
const REST_MS = 250;

/** How the board is arranged, kept in the page's address; the board follows at once, the address once it rests. */
export function useBoardLook(): [BoardLook, (change: Partial<BoardLook>) => void] {
  const { params } = usePlan();
  const navigate = useNavigate();
  const said = withBoardLook(new URLSearchParams(), boardLookOf(params)).toString();
  const [look, setLook] = useState(() => boardLookOf(params));
  const wanted = withBoardLook(new URLSearchParams(), look).toString();
  const written = useRef(said);
  // An address that somebody else wrote, by a link or by going back, is followed.
  if (said !== written.current) {
    written.current = said;
    if (said !== wanted) setLook(boardLookOf(params));
  }
  useEffect(() => {
    if (wanted === written.current) return;
    const timer = setTimeout(() => {
      written.current = wanted;
      navigate(`?${withBoardLook(params, look)}`, { replace: true, preventScrollReset: true });
    }, REST_MS);
    return () => clearTimeout(timer);
  }, [wanted, look, params, navigate]);
  return [look, (change) => setLook((now) => ({ ...now, ...change }))];
}

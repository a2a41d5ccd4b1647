import { useState } from "react";
import { stageOf } from "../../../core/plan/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Button } from "../../ui/button.tsx";
import { keepFile } from "../../ui/keep-file.ts";
import { Menu } from "../../ui/menu.tsx";
import { Notice } from "../../ui/toast.tsx";
import { FatesMenu } from "./fates-menu.tsx";
import { Legend } from "./legend.tsx";

interface MapControlsProps {
  box: { closer: () => void; farther: () => void; whole: () => void; part: string };
  /** The drawing as a file, and as a picture. */
  exports: { svg: () => void; png: () => Promise<Blob> };
}

/** Zooming, what the signs mean, and the drawing to take along. */
export function MapControls({ box, exports }: MapControlsProps) {
  const { page, params } = usePlan();
  const [told, setTold] = useState({ text: "", grave: false });
  const keepPng = () =>
    exports.png().then(
      (picture) => keepFile("map.png", picture),
      ({ message }: Error) =>
        setTold({
          text: `The picture could not be created: ${message}. Export as SVG instead.`,
          grave: true,
        }),
    );
  /** With the revision, the conditions and the part of the drawing that are seen, whatever becomes of the plan. */
  const copyLink = () => {
    const pinned = new URLSearchParams(params);
    if (!stageOf(page.revision)) pinned.set("revision", String(page.revision));
    if (box.part) pinned.set("part", box.part);
    else pinned.delete("part");
    const address = `${location.origin}${location.pathname}?${pinned}`;
    return navigator.clipboard.writeText(address).then(
      () => setTold({ text: "Link copied.", grave: false }),
      () => setTold({ text: `The link could not be copied: ${address}`, grave: true }),
    );
  };
  return (
    <div className="absolute bottom-3 left-3 flex gap-1">
      <Button onClick={box.closer} aria-label="Zoom in">
        +
      </Button>
      <Button onClick={box.farther} aria-label="Zoom out">
        −
      </Button>
      <Button onClick={box.whole}>Fit</Button>
      <Legend />
      <FatesMenu />
      <Menu
        trigger={<Button>Export</Button>}
        items={[
          { text: "Drawing as SVG", run: exports.svg },
          { text: "Picture as PNG", run: () => void keepPng() },
          { text: "Link to this view", run: () => void copyLink() },
        ]}
      />
      <Notice
        text={told.text}
        grave={told.grave}
        open={told.text !== ""}
        onOpenChange={() => setTold({ text: "", grave: false })}
      />
    </div>
  );
}

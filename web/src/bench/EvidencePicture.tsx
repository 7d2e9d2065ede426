import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { evidenceQuery } from "../api/queries";
import { useKeys } from "../keys";
import { Dialog } from "../ui/Dialog";
import { Key } from "../ui/Key";
import { number } from "../ui/words";
import { CurveChart } from "./charts";

/** How wide the dialog is inside, and how high a picture may be that leaves room for a plot; pixels. */
const [LARGE, HIGH] = [816, 440];

/** A finding's evidence as a picture: a copy beside its source, the rim unrolled, or the place itself in both; and what can be plotted of it. Large by a key. */
export function EvidencePicture({ finding, kind }: { finding: number; kind: string }) {
  const picture = useQuery(evidenceQuery(finding));
  const [large, setLarge] = useState(false);
  useKeys({ evidence: () => setLarge(true) });
  if (picture.isError) return <p className="m-0 small">{picture.error.message}</p>;
  if (!picture.data)
    return (
      <p role="status" className="m-0 small">
        cutting it out …
      </p>
    );
  const { png, says, width, height, agreement, curve } = picture.data;
  const caption = `${says}${agreement !== null ? `; their grain agrees to ${number(agreement)} (1 is the same, 0 is none of it)` : ""}`;
  // Along a rim the strip may be squeezed; across it every pixel is kept.
  const strip = width > 3 * height;
  const times = Math.max(1, Math.floor(Math.min(LARGE / width, HIGH / height)));
  return (
    <>
      <figure className="m-0" data-evidence>
        <button
          type="button"
          className="block w-full cursor-pointer border-0 bg-transparent p-0"
          aria-label={`${kind}: the picture large`}
          onClick={() => setLarge(true)}
        >
          <img
            src={png}
            alt={says}
            width={width}
            height={height}
            className="block"
            style={{
              imageRendering: width < 240 ? "pixelated" : undefined,
              width: "100%",
              maxWidth: Math.max(180, Math.round(width * 1.6)),
              height: strip ? height : "auto",
            }}
          />
        </button>
        <figcaption className="small">
          {caption} <Key action="evidence" />
        </figcaption>
      </figure>
      {curve && <CurveChart curve={curve} />}
      <Dialog open={large} onClose={() => setLarge(false)} title={`${kind}, seen closely`} wide>
        <figure className="m-0" data-evidence-large>
          <img
            src={png}
            alt={says}
            className="block"
            style={{ imageRendering: "pixelated", width: width * times, height: height * times }}
          />
          <figcaption>
            {caption}; {times === 1 ? "at 100 %" : `${times * 100} %`}
          </figcaption>
        </figure>
        {curve && (
          <div className="mt-2">
            <CurveChart curve={curve} width={400} />
          </div>
        )}
      </Dialog>
    </>
  );
}

import { useQuery } from "@tanstack/react-query";
import { evidenceQuery } from "../api/queries";
import { number } from "../ui/words";
import { CurveChart } from "./charts";

/** A finding's evidence as a picture: a copy beside its source, the rim unrolled, or the place itself in both; and what can be plotted of it. */
export function EvidencePicture({ finding }: { finding: number }) {
  const picture = useQuery(evidenceQuery(finding));
  if (picture.isError) return <p className="m-0 text-[13px]">{picture.error.message}</p>;
  if (!picture.data) return <p role="status" className="m-0 text-[13px]">cutting it out …</p>;
  const { png, says, width, height, agreement, curve } = picture.data;
  return (
    <>
    <figure className="m-0" data-evidence>
      <img src={png} alt={says} width={width} height={height} className="block h-auto max-w-full" style={{ imageRendering: width < 240 ? "pixelated" : undefined, width: Math.min(262, Math.max(width, 180)), height: width > 300 ? height : undefined }} />
      <figcaption className="text-[13px]">{says}{agreement !== null ? `; their grain agrees to ${number(agreement)} (1 is the same, 0 is none of it)` : ""}</figcaption>
    </figure>
    {curve && <CurveChart curve={curve} />}
    </>
  );
}

import type Feature from "ol/Feature";
import type { Bench } from "../api/client";
import type { Leaves } from "../api/outside";
import { ringed } from "./evidence";
import { Stage } from "./Stage";
import { corners } from "./strokes";

const none: never[] = [];
const ignored = () => undefined;

/** What of a picture would leave the house, on the picture and in words. */
export function WhatLeaves({
  image,
  outlines,
  leaves,
  largest,
  label,
}: {
  image: Bench["original"];
  outlines: Feature[];
  leaves: Leaves;
  /** The longest side that the service works at, pixels. */
  largest: number | null;
  label: string;
}) {
  return (
    <>
      <div className="relative h-[240px]">
        <Stage
          image={image}
          ready={none}
          marks={[...outlines, ringed(corners(leaves.shown))]}
          zoom="region"
          box={leaves.shown}
          at={leaves.shown.join(" ")}
          onSettled={ignored}
          label={label}
        />
      </div>
      <p className="m-0">
        The framed part leaves: {leaves.box[2]} by {leaves.box[3]} pixels,{" "}
        {Math.round(100 * leaves.share)} % of the picture, and a mask of{" "}
        {leaves.marked.toLocaleString()} pixels. No name, no place, no date, no profile goes along.
        {leaves.soft &&
          largest !== null &&
          ` It works at ${largest} px: this is larger and will come back soft.`}
      </p>
    </>
  );
}

import type { Shapes } from "../api/client";
import { Key } from "../ui/Key";
import type { At } from "./useSpot";

const number = (value: number, digits: number) =>
  value.toLocaleString(undefined, { minimumFractionDigits: digits, maximumFractionDigits: digits });

/** One spot in both sides: sRGB, CIELAB, how far apart they are, how noisy each is there. */
export function Reading({
  reading,
  trouble,
  pinned,
  names,
}: {
  reading: Shapes["Spots"] | null;
  trouble: string | null;
  pinned: At | null;
  names: [string, string];
}) {
  if (trouble)
    return (
      <p role="status" className="m-0 px-2 small">
        {trouble}
      </p>
    );
  if (!reading)
    return (
      <p className="m-0 px-2 small">
        rest on the picture to read a spot; pin <Key action="pin" />
      </p>
    );
  const rows: [string, Shapes["Spot"]][] = [
    [names[0], reading.a],
    [names[1], reading.b],
  ];
  return (
    <table
      className="w-auto border-collapse small tabular-nums"
      data-spot={`${reading.x},${reading.y}`}
      aria-label={pinned ? "the pinned spot" : "the spot under the pointer"}
    >
      <tbody>
        {rows.map(([name, side], i) => (
          <tr key={name}>
            {i === 0 && (
              <td rowSpan={2} className="px-2 align-top">
                {reading.x}, {reading.y}
                <br />
                {pinned ? "pinned" : "pin"} <Key action="pin" />
              </td>
            )}
            <th scope="row" className="px-2 text-left font-normal">
              {name}
            </th>
            <td className="px-2" data-side-srgb={i === 0 ? "A" : "B"}>
              {side.srgb.map((value) => Math.round(value)).join(" ")}
            </td>
            <td className="px-2">
              L* {number(side.lab[0] ?? 0, 1)} a* {number(side.lab[1] ?? 0, 1)} b*{" "}
              {number(side.lab[2] ?? 0, 1)}
            </td>
            <td className="px-2">noise {number(side.noise, 1)}</td>
            {i === 0 && (
              <td rowSpan={2} className="px-2">
                CIEDE2000 <strong>{number(reading.ciede2000, 1)}</strong>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

import { useState } from "react";
import type { Arrival, Intake } from "../api/client";
import type { Gathered } from "./pairing";

/** Which picture a file belongs to. All pictures are listed only once one goes there: with hundreds of files, as many lists of all of them would
 * be most of the page. */
export function Belongs({
  arrival,
  group,
  groups,
  pictures,
  onChange,
}: {
  arrival: Arrival;
  group: Gathered;
  groups: readonly Gathered[];
  pictures: Intake["job"]["pictures"];
  onChange: (key: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <label onPointerEnter={() => setOpen(true)}>
      <span className="sr-only">{arrival.name} belongs to</span>
      <select
        className="field w-full"
        value={group.key}
        onFocus={() => setOpen(true)}
        onChange={(event) => onChange(event.target.value)}
      >
        {!open && <option value={group.key}>{group.name}</option>}
        {open && (
          <>
            {groups.map((one) => (
              <option key={one.key} value={one.key}>
                {one.name}
              </option>
            ))}
            {pictures
              .filter((one) => !groups.some((other) => other.picture === one.id))
              .map((one) => (
                <option key={one.id} value={`picture ${one.id}`}>
                  {String(one.number).padStart(2, "0")} {one.name}
                </option>
              ))}
            <option value={`${arrival.name} alone`}>a picture of its own</option>
          </>
        )}
      </select>
    </label>
  );
}

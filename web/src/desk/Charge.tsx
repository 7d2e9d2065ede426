import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useCharge } from "../api/charge";
import type { DeskPicture, Shapes } from "../api/client";
import { sessionQuery } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";

type Person = Shapes["PersonNamed"];

/** Who is in charge of a picture; taking it over, handing it over with a word. */
export function Charge({
  picture,
  supervisors,
}: {
  picture: DeskPicture;
  supervisors: readonly Person[];
}) {
  const me = useQuery(sessionQuery).data?.id;
  const charge = useCharge();
  const [handing, setHanding] = useState(false);
  const mine = picture.charge?.id === me;
  return (
    <span className="block">
      {picture.charge && (
        <span className="block small">
          {mine ? "you are in charge" : `${picture.charge.name} is in charge`}
        </span>
      )}
      {mine ? (
        <button type="button" className="quiet -ml-1" onClick={() => setHanding(true)}>
          hand over<span className="sr-only"> {picture.name}</span>
        </button>
      ) : (
        <button
          type="button"
          className="quiet -ml-1"
          disabled={charge.isPending || me === undefined}
          onClick={() =>
            me !== undefined && charge.mutate({ picture: picture.id, person: me, words: "" })
          }
        >
          take over<span className="sr-only"> {picture.name}</span>
        </button>
      )}
      <Trouble error={handing ? null : charge.error} />
      <Dialog open={handing} onClose={() => setHanding(false)} title={`Hand over ${picture.name}`}>
        {handing && (
          <HandOver
            picture={picture}
            others={supervisors.filter((one) => one.id !== me)}
            onDone={() => setHanding(false)}
          />
        )}
      </Dialog>
    </span>
  );
}

function HandOver({
  picture,
  others,
  onDone,
}: {
  picture: DeskPicture;
  others: readonly Person[];
  onDone: () => void;
}) {
  const charge = useCharge();
  const [to, setTo] = useState<number | null>(others[0]?.id ?? null);
  const [words, setWords] = useState("");
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!charge.isPending)
          charge.mutate({ picture: picture.id, person: to, words }, { onSuccess: onDone });
      }}
    >
      <label className="block">
        to
        <select
          className="field block w-full"
          value={to ?? ""}
          onChange={(event) => setTo(event.target.value ? Number(event.target.value) : null)}
        >
          {others.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
          <option value="">whoever comes first</option>
        </select>
      </label>
      <label className="mt-2 block">
        a word with it
        <textarea
          className="field block w-full"
          rows={3}
          maxLength={1000}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      <p className="small">They read it at their Desk the next time they come.</p>
      <button type="submit" className="plain" aria-disabled={charge.isPending}>
        hand it over
      </button>
      <Trouble error={charge.error} />
    </form>
  );
}

import type { Facts, Terms } from "./facts";

/** Whether it was cropped before or after it was worked on: a method sees less of a cropped picture. */
export function Cropped({
  facts,
  label,
  onChange,
}: {
  facts: Facts;
  label: string;
  onChange: (facts: Facts) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      cropped
      <select
        className="field"
        aria-label={`${label}: cropped`}
        value={facts.croppedWhen}
        onChange={(event) =>
          onChange({ ...facts, croppedWhen: event.target.value as Facts["croppedWhen"] })
        }
      >
        <option value="">not said</option>
        <option value="before">before it was worked on</option>
        <option value="after">after it was worked on</option>
      </select>
    </label>
  );
}

/** Terms of use, whether the picture left the house, settings by name. */
export function FurtherFacts({
  facts,
  terms,
  label,
  onChange,
}: {
  facts: Facts;
  terms: string[];
  label: string;
  onChange: (facts: Facts) => void;
}) {
  const row = (place: number, change: Partial<Facts["settings"][number]>) =>
    onChange({
      ...facts,
      settings: facts.settings.map((one, at) => (at === place ? { ...one, ...change } : one)),
    });
  return (
    <span className="flex flex-col gap-1">
      <span className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-1">
          terms of use
          <select
            className="field"
            aria-label={`${label}: terms of use`}
            value={facts.terms}
            onChange={(event) => onChange({ ...facts, terms: event.target.value as Terms })}
          >
            <option value="">not said</option>
            {terms.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1">
          the picture left the house
          <select
            className="field"
            aria-label={`${label}: the picture left the house`}
            value={facts.leftHouse === null ? "" : facts.leftHouse ? "yes" : "no"}
            onChange={(event) =>
              onChange({
                ...facts,
                leftHouse: event.target.value === "" ? null : event.target.value === "yes",
              })
            }
          >
            <option value="">not said</option>
            <option>yes</option>
            <option>no</option>
          </select>
        </label>
        <Cropped facts={facts} label={label} onChange={onChange} />
      </span>
      {facts.settings.map((one, place) => (
        <span key={place} className="flex items-center gap-1">
          <input
            className="field w-[150px]"
            aria-label={`${label}: name of setting ${place + 1}`}
            placeholder="margin"
            maxLength={60}
            value={one.name}
            onChange={(event) => row(place, { name: event.target.value })}
          />
          <input
            className="field w-[150px]"
            aria-label={`${label}: value of setting ${place + 1}`}
            placeholder="8"
            maxLength={200}
            value={one.value}
            onChange={(event) => row(place, { value: event.target.value })}
          />
          <button
            type="button"
            className="quiet"
            aria-label={`${label}: without setting ${place + 1}`}
            onClick={() =>
              onChange({ ...facts, settings: facts.settings.filter((_, at) => at !== place) })
            }
          >
            without it
          </button>
        </span>
      ))}
      <span>
        <button
          type="button"
          className="quiet -ml-1"
          onClick={() =>
            onChange({ ...facts, settings: [...facts.settings, { name: "", value: "" }] })
          }
        >
          one more setting
        </button>
      </span>
    </span>
  );
}

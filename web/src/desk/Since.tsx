import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { visitQuery } from "../api/charge";
import { counted, moment } from "../ui/words";
import { newsWords } from "./news";

/** So much is shown before one asks for more. */
const FEW = 4;

/** What others, and the machine, did since one was last at the Desk. */
export function Since() {
  const visit = useQuery(visitQuery).data;
  const [all, setAll] = useState(false);
  if (!visit?.since || visit.news.length === 0) return null;
  const shown = all ? visit.news : visit.news.slice(0, FEW);
  return (
    <section className="rule-top mb-2 py-2" aria-label="Since you were here">
      <h2 className="text-[1rem]">Since you were here, {moment(visit.since)}</h2>
      <ul className="m-0 list-none p-0">
        {shown.map((one) => (
          <li key={one.entry} className="flex gap-3">
            <span className="small w-[9.5rem] shrink-0">{moment(one.at)}</span>
            <span>
              <Link to={`/pictures/${one.picture}`}>
                {String(one.number).padStart(2, "0")} {one.name}
              </Link>
              : {newsWords(one)}
            </span>
          </li>
        ))}
      </ul>
      {visit.news.length > FEW && (
        <button type="button" className="quiet -ml-1" onClick={() => setAll(!all)}>
          {all ? "fewer" : `${counted(visit.news.length - FEW, "more", "more")}`}
        </button>
      )}
    </section>
  );
}

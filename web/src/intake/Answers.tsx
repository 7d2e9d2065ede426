import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, data, type Arrival } from "../api/client";
import { Trouble } from "../ui/Trouble";

/** Files that come back on a slip: no new pictures, but answers. */
export function Answers({ job, arrivals }: { job: number; arrivals: Arrival[] }) {
  const client = useQueryClient();
  const again = () => {
    for (const key of ["intake", "slips"])
      void client.invalidateQueries({ queryKey: key === "intake" ? [key, job] : [key] });
  };
  const handIn = useMutation({
    mutationFn: (id: number) =>
      data(api.POST("/api/arrivals/{id}/hand-in/", { params: { path: { id } } })),
    onSettled: again,
  });
  const forget = useMutation({
    mutationFn: (id: number) =>
      data(api.DELETE("/api/arrivals/{id}/", { params: { path: { id } } })),
    onSettled: again,
  });
  const found = arrivals.filter((one) => one.answers);
  if (found.length === 0 && !handIn.data) return null;
  return (
    <section aria-label="Answers to slips" className="mb-3">
      <h2 className="text-[1rem]">Answers to slips</h2>
      <ul className="m-0 list-none p-0">
        {found.map((one) => (
          <li key={one.id} className="flex items-center gap-3 py-[2px]">
            {one.small && <img src={one.small} alt="" className="h-[46px] w-[68px] object-cover" />}
            <span className="flex-1">
              {one.name} comes back on{" "}
              <Link to={`/slips/${one.answers?.id}`}>{one.answers?.words}</Link>, which is with{" "}
              {one.answers?.worker}.
            </span>
            <button
              type="button"
              className="plain px-2"
              disabled={handIn.isPending}
              onClick={() => handIn.mutate(one.id)}
            >
              hand it in
            </button>
            <button
              type="button"
              className="plain px-2"
              aria-label={`forget ${one.name}`}
              onClick={() => forget.mutate(one.id)}
            >
              forget
            </button>
          </li>
        ))}
      </ul>
      {handIn.data && (
        <p className="m-0" role="status">
          Handed in on <Link to={`/slips/${handIn.data.id}`}>{handIn.data.words}</Link>.
        </p>
      )}
      <Trouble error={handIn.error ?? forget.error} />
    </section>
  );
}

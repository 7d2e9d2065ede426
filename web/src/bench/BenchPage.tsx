import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import { benchQuery } from "../api/queries";
import { Notice } from "../ui/Notice";
import { namesUnknown } from "./address";
import { BenchFor } from "./BenchFor";
import { DESK } from "../ui/places";

const toDesk = (
  <p>
    <Link to={DESK}>to the desk</Link>
  </p>
);

/** Does this region hold in this attempt? */
export function BenchPage() {
  const { id } = useParams();
  const [search] = useSearchParams();
  const wanted = search.get("size");
  const size = wanted && /^[0-9]{1,15}$/.test(wanted) ? Number(wanted) : null;
  const picture = Number(id);
  const bench = useQuery(benchQuery(picture, size));
  const older =
    bench.data &&
    (bench.data.id !== picture ||
      (!bench.isFetchedAfterMount && bench.isFetching && namesUnknown(bench.data, search)));
  if (bench.isPending || older) return <Notice title="Opening the picture …" busy />;
  if (!bench.data)
    return (
      <Notice title="The picture cannot be shown" alert>
        {bench.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void bench.refetch()}>
            try again
          </button>{" "}
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  if (bench.data.regions.length === 0)
    return (
      <Notice title="No regions yet">
        Nothing in this picture is marked to be removed.{" "}
        <Link to={`/pictures/${picture}/outlines`}>Draw the first outline</Link>, or take what an
        attempt changed. {toDesk}
      </Notice>
    );
  if (bench.data.attempts.length === 0)
    return (
      <Notice title="No attempts yet">
        No result has come in for this picture.{" "}
        {bench.data.role === "supervisor" && (
          <Link to={`/jobs/${bench.data.job_id}?picture=${picture}`}>Bring one in</Link>
        )}{" "}
        {toDesk}
      </Notice>
    );
  return (
    <BenchFor
      key={picture}
      bench={bench.data}
      askedSize={size}
      stale={bench.isError ? bench.error.message : null}
    />
  );
}

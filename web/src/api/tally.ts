import { queryOptions } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Tally = Shapes["TallyOf"];
export type Share = Shapes["ShareOf"];
export type TallyAsked = { job: number | null; days: number | null; by: "method" | "maker" };

/** What was asked for, as the address and the API say it. */
export const searchOf = ({ job, days, by }: TallyAsked) => {
  const said = new URLSearchParams();
  if (job !== null) said.set("job", String(job));
  if (days !== null) said.set("days", String(days));
  if (by !== "method") said.set("by", by);
  return said.toString();
};

export const tallyQuery = (asked: TallyAsked) =>
  queryOptions({
    queryKey: ["tally", asked],
    queryFn: () =>
      data(
        api.GET("/api/tally/", {
          params: {
            query: {
              ...(asked.job === null ? {} : { job: asked.job }),
              ...(asked.days === null ? {} : { days: asked.days }),
              by: asked.by,
            },
          },
        }),
      ),
    placeholderData: (before) => before,
  });

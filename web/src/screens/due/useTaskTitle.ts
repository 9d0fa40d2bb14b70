import { useQuery } from "@tanstack/react-query";
import { rulesOptions } from "../../api/queries";
import { titleOf } from "../../words/due";

/** The words of tasks by their codes, of the shop's own as well. */
export function useTaskTitle(): (code: string) => string {
  const own = useQuery(rulesOptions).data?.rules.intervals.own;
  return (code) => titleOf({ code, title: own?.find((t) => t.code === code)?.title });
}

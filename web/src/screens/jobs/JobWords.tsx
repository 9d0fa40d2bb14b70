import { useQuery } from "@tanstack/react-query";
import { jobWordsOptions } from "../../api/queries";

/** What owners say and what is found, in words; "" for all until the words are there: a code is no word. */
export function useJobWords() {
  const words = useQuery(jobWordsOptions).data;
  return {
    complaints: words?.complaints ?? [],
    findings: words?.findings ?? [],
    complaint: (code: string) => words?.complaints.find((w) => w.code === code)?.says ?? "",
    finding: (code: string) => words?.findings.find((w) => w.code === code)?.says ?? "",
  };
}

/** What an owner says of a bike, in one line; nothing until the words are there. */
export function Complaints({ codes }: { codes: string[] }) {
  const { complaint } = useJobWords();
  const says = codes.map(complaint).filter(Boolean);
  return says.length > 0 ? <p className="font-semibold">{says.join(", ")}</p> : null;
}

/** A finding in words, an ellipsis until they are there. */
export function FindingName({ code }: { code: string }) {
  return useJobWords().finding(code) || "…";
}

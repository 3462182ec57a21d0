import { useQuery } from "@tanstack/react-query";
import { costQuery } from "../../api/benchQueries";
import type { Finding, Schemas, Shot } from "../../api/client";

/** All findings of a shot: those of its source, then its own, then those of what a capture costs. */
export function useFindings(shot: Shot, source: Schemas["SourceBody"] | undefined): Finding[] {
  // The timing line asks for the cost, when edits have rested.
  const { data: cost } = useQuery({ ...costQuery(shot.id, shot.revision), enabled: false });
  return [...(source?.findings ?? []), ...shot.findings, ...(cost?.findings ?? [])];
}

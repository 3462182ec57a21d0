import type { Finding, Schemas, Shot } from "../../api/client";

/** All findings of a shot: those of its source, then its own. */
export const findingsOf = (shot: Shot, source: Schemas["SourceBody"] | undefined): Finding[] => [
  ...(source?.findings ?? []),
  ...shot.findings,
];

import { useMutation } from "@tanstack/react-query";
import { body, client } from "../../api/client";
import { Complaint } from "../../parts/Complaint";
import type { ReelData } from "./reelItems";
import { Row } from "./sheetParts";

const KINDS = { otio: "OTIO", edl: "EDL", csv: "CSV" } as const;

const WHAT = { otio: "OpenTimelineIO", edl: "Edit list, CMX 3600", csv: "A table of the cuts" };

/** The cuts as a file for other programs, and what such a file has no place for. */
export function CutLists({ reel }: { reel: ReelData }) {
  const write = useMutation({
    mutationFn: (ending: keyof typeof KINDS) =>
      body(
        client.GET("/api/reels/{reel_id}/list", {
          params: { path: { reel_id: reel.id }, query: { ending } },
        }),
      ),
    onSuccess: ({ name, text }) => {
      const link = document.createElement("a");
      link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
      link.download = name;
      link.click();
      URL.revokeObjectURL(link.href);
    },
  });
  return (
    <>
      <Row name="Cuts as">
        {(Object.keys(KINDS) as (keyof typeof KINDS)[]).map((ending) => (
          <button
            key={ending}
            type="button"
            className="btn btn-xs"
            title={WHAT[ending]}
            disabled={reel.frames === 0 || write.isPending}
            onClick={() => write.mutate(ending)}
          >
            {KINDS[ending]}
          </button>
        ))}
      </Row>
      {write.data?.notes.map((note) => (
        <p key={note} className="quiet text-note">
          {note}
        </p>
      ))}
      <Complaint error={write.error} onClose={write.reset} />
    </>
  );
}

import { useMutation } from "@tanstack/react-query";
import { body, client } from "../../api/client";
import { vocabulary } from "../../api/vocabulary";
import { ErrorAlert } from "../../parts/ErrorAlert";
import type { ReelData } from "./reelItems";
import { Row } from "./sheetParts";

/** The cuts as a file for other programs, and what such a file has no place for. */
export function CutLists({ reel }: { reel: ReelData }) {
  const write = useMutation({
    mutationFn: (ending: string) =>
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
      <Row name="Export timeline">
        {vocabulary().cut_formats.map(({ ending, label, about }) => (
          <button
            key={ending}
            type="button"
            className="btn btn-xs"
            title={about}
            disabled={reel.frames === 0 || write.isPending}
            onClick={() => write.mutate(ending)}
          >
            {label}
          </button>
        ))}
      </Row>
      {write.data?.notes.map((note) => (
        <p key={note} className="quiet text-note">
          {note}
        </p>
      ))}
      <ErrorAlert error={write.error} onClose={write.reset} />
    </>
  );
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, type Schemas } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { TextEntry } from "../../parts/entries/TextEntry";
import { Fold } from "../../parts/Fold";
import { keepWish, keptWish } from "../../parts/shell/notifyWish";

const KEY = ["settings-of-project"];

/** What happens when a capture ends: a notification of the browser, and a command of the user's own. */
export function WhenEnded() {
  const queries = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => body(client.GET("/api/settings")) });
  const save = useMutation({
    mutationFn: (on_end: string) =>
      body(client.PUT("/api/settings", { body: { on_end, keep_free_mb: null } })),
    onSuccess: (next: Schemas["SettingsBody"]) => queries.setQueryData(KEY, next),
  });
  return (
    <Fold heading="When a capture ends, fails or pauses">
      <div className="flex flex-col gap-2 text-small">
        <Notify />
        <div>
          <span className="mb-0.5 block">Run a command</span>
          <TextEntry
            label="Command when a capture ends"
            value={data?.on_end ?? ""}
            placeholder="none"
            className="w-full entry"
            onCommit={(text) => save.mutate(text)}
          />
          <p className="quiet mt-0.5 text-note">
            It runs in the project&apos;s folder, with VEXEL_RUN, VEXEL_TITLE, VEXEL_STATE and VEXEL_SENTENCE
            set. It is saved in settings.json of the project.
          </p>
          {data && !data.allowed && (
            <p className="mt-1">
              This command came with the project and does not run yet.{" "}
              <button type="button" className="btn btn-xs" onClick={() => save.mutate(data.on_end)}>
                Allow this command
              </button>
            </p>
          )}
          {(save.error || data?.trouble) && <ErrorAlert error={save.error ?? data?.trouble ?? null} />}
        </div>
      </div>
    </Fold>
  );
}

function Notify() {
  const [on, setOn] = useState(keptWish());
  const [refused, setRefused] = useState(false);
  if (typeof Notification === "undefined") return null;
  const turn = async () => {
    if (!on && (await Notification.requestPermission()) !== "granted") {
      setRefused(true);
      return;
    }
    keepWish(!on);
    setOn(!on);
  };
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" className="checkbox checkbox-sm" checked={on} onChange={() => void turn()} />
      Show a notification of the browser
      {refused && <span className="text-warning">The browser does not allow it for this address.</span>}
    </label>
  );
}

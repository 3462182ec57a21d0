import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Clapperboard, Play, Square } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { sweepQuery } from "../../api/benchQueries";
import { body, client, type Schemas, type Shot } from "../../api/client";
import { shotEdits, shotQuery } from "../../api/edits";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import { Notice } from "../../parts/Notice";
import { PageHead } from "../../parts/PageHead";
import { CaptureVariants } from "./CaptureVariants";
import { ExportSheet } from "./ExportSheet";
import { SheetMenu } from "./SheetMenu";
import { VariantCell } from "./VariantCell";

type Variant = Schemas["VariantBody"];
const SIZES = [
  ["Small", 160],
  ["Medium", 240],
  ["Large", 400],
] as const;

/** The variants of a shot side by side. */
export function ContactSheet() {
  const id = useParams().shotId ?? "";
  const { data: shot, error } = useQuery(shotQuery(id));
  if (error && !shot)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert error={error} />
      </div>
    );
  if (!shot)
    return (
      <div className="p-8">
        <PageHead title="Variants">Opening the contact sheet…</PageHead>
      </div>
    );
  return <Variants shot={shot} />;
}

function Variants({ shot }: { shot: Shot }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data: found } = useQuery(sweepQuery(shot.id, shot.revision));
  const [wide, setWide] = useState<number>(240);
  const [onlyMarked, setOnlyMarked] = useState(false);
  const [playing, setPlaying] = useState(false);
  const sweep = shot.document.sweep;
  const path = { params: { path: { shot_id: shot.id } } };
  const save = (patch: object, what: string) => shotEdits(shot.id, queries).edit({ sweep: patch }, what);
  const capture = useMutation({
    mutationFn: async (order: Schemas["SweepOrder"]) => {
      await shotEdits(shot.id, queries).idle();
      return body(client.POST("/api/shots/{shot_id}/sweep/runs", { ...path, body: order }));
    },
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["sweep", shot.id] }),
  });
  const open = useMutation({
    mutationFn: (number: number) =>
      body(
        client.POST("/api/shots/{shot_id}/variants/{number}/shot", {
          params: { path: { shot_id: shot.id, number } },
        }),
      ),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["shots"] });
      navigate(`/shots/${made.id}`);
    },
  });
  const toReel = useMutation({
    mutationFn: (order: Schemas["SweepReel"]) =>
      body(client.POST("/api/shots/{shot_id}/sweep/reel", { ...path, body: order })),
    onSuccess: (made) => navigate(`/reels/${made.id}`),
  });
  const all = found?.variants ?? [];
  const marked = all.filter((one) => one.favourite && !one.left_out);
  const shown = onlyMarked ? marked : all;
  const toggled = (names: string[], name: string) =>
    names.includes(name) ? names.filter((one) => one !== name) : [...names, name];
  if (!sweep)
    return (
      <div className="mx-auto max-w-3xl p-8">
        <PageHead title={`${shot.document.title}, variants`}>
          This shot has no variants. <Bench shot={shot}>Add an axis at the Bench</Bench>: a dial, the light,
          the lens, the background.
        </PageHead>
      </div>
    );
  // Marks change no picture, nor does what is left out, unless all variants are one take.
  const look = JSON.stringify({
    ...shot.document,
    sweep: { ...sweep, favourites: [], without: sweep.makes === "shots" ? [] : sweep.without },
  });
  const cell = (variant: Variant) => (
    <VariantCell
      key={variant.number}
      {...{ shot, look, variant, wide, playing }}
      frame={Math.min(sweep.frame, shot.timing.frames - 1)}
      onOpen={() => open.mutate(variant.number)}
      onMark={() => save({ favourites: toggled(sweep.favourites, variant.name) }, "a mark")}
      onLeaveOut={() => save({ without: toggled(sweep.without, variant.name) }, "what is left out")}
    />
  );
  const busy = all.some((one) => one.state === "running" || one.state === "queued");
  const taken = all.filter((one) => !one.left_out && one.state === "done");
  return (
    <div className="px-5 py-4 max-sm:px-3">
      <header className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <div className="min-w-0">
          <h1 className="text-2xl font-semibold">{shot.document.title}, variants</h1>
          <p className="figures text-small" data-testid="sweep-size">
            {found?.sentence} <Bench shot={shot}>Change the axes</Bench>
          </p>
        </div>
        <span className="flex-1" />
        <ExportSheet shot={shot} variants={shown.filter((one) => !one.left_out)} onlyMarked={onlyMarked} />
        {sweep.makes === "shots" && (
          <SheetMenu
            label="Make a reel"
            icon={<Clapperboard size={16} aria-hidden />}
            off={taken.length === 0}
          >
            {(["one after another", "grid"] as const).map((arrangement) => (
              <li key={arrangement}>
                <button type="button" onClick={() => toReel.mutate({ arrangement, favourites: onlyMarked })}>
                  {arrangement === "grid" ? "In a synchronized grid" : "One after another, with titles"}
                </button>
              </li>
            ))}
          </SheetMenu>
        )}
        <CaptureVariants
          kept={found?.kept ?? 0}
          pictures={found?.pictures ?? 0}
          marked={marked.length}
          pending={capture.isPending}
          onCapture={capture.mutate}
        />
      </header>
      <div className="mb-3 flex flex-wrap items-center gap-4 text-small">
        <div className="flex items-center gap-2">
          Frame
          <NumberEntry
            label="Frame shown"
            value={sweep.frame}
            min={0}
            max={shot.timing.frames - 1}
            whole
            width="4.5rem"
            onCommit={(frame) => save({ frame }, "the frame shown")}
          />
        </div>
        <fieldset className="join" aria-label="Size of the pictures">
          {SIZES.map(([label, size]) => (
            <button
              key={label}
              type="button"
              className={`btn btn-sm join-item ${wide === size ? "btn-active" : ""}`}
              aria-pressed={wide === size}
              onClick={() => setWide(size)}
            >
              {label}
            </button>
          ))}
        </fieldset>
        {sweep.makes === "shots" && shot.timing.frames > 1 && (
          <button
            type="button"
            className="btn btn-sm"
            aria-pressed={playing}
            onClick={() => setPlaying(!playing)}
          >
            {playing ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />}
            {playing ? "Stop the clips" : "Play clips"}
          </button>
        )}
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={onlyMarked}
            disabled={marked.length === 0 && !onlyMarked}
            onChange={() => setOnlyMarked(!onlyMarked)}
          />
          Marked only ({marked.length})
        </label>
        {busy && (
          <Link to="/runs" className="link">
            Captures are running
          </Link>
        )}
      </div>
      {found?.trouble && <ErrorAlert error={found.trouble} />}
      <Grid variants={shown} axes={found?.axes ?? []} wide={wide} cell={cell} />
      <Notice error={capture.error ?? open.error ?? toReel.error} onClose={() => capture.reset()} />
    </div>
  );
}

function Bench({ shot, children }: { shot: Shot; children: React.ReactNode }) {
  return (
    <Link to={`/shots/${shot.id}?topic=sweep`} className="link link-primary font-sans">
      {children}
    </Link>
  );
}

interface GridProps {
  variants: Variant[];
  axes: Schemas["AxisBody"][];
  wide: number;
  cell: (variant: Variant) => React.ReactNode;
}

/** Columns by the last axis and rows by the others; without axes, or with some left, one after another. */
function Grid({ variants, axes, wide, cell }: GridProps) {
  const whole =
    axes.length > 1 && axes.reduce((all, axis) => all * axis.values.length, 1) === variants.length;
  if (!whole)
    return (
      <div
        className="grid gap-3"
        style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${wide}px, 1fr))` }}
        data-testid="sheet-grid"
      >
        {variants.map(cell)}
      </div>
    );
  const across = axes[axes.length - 1];
  const down = axes.slice(0, -1);
  const rows: Variant[][] = [];
  for (let n = 0; n < variants.length; n += across.values.length)
    rows.push(variants.slice(n, n + across.values.length));
  return (
    <div className="overflow-x-auto" data-testid="sheet-grid">
      <div
        className="grid w-max gap-3"
        style={{
          gridTemplateColumns: `max-content repeat(${across.values.length}, ${wide}px)`,
        }}
      >
        <span className="quiet self-end text-note">{down.map((axis) => axis.label).join(", ")}</span>
        {across.values.map((value) => (
          <span key={value} className="figures text-small font-semibold">
            <span className="quiet font-sans font-normal">{across.label}</span> {value}
          </span>
        ))}
        {rows.map((row) => (
          <div key={row[0].number} className="contents">
            <span className="figures self-center text-small font-semibold">
              {down.map((axis, n) => axis.values[row[0].place[n]]).join(", ")}
            </span>
            {row.map(cell)}
          </div>
        ))}
      </div>
    </div>
  );
}

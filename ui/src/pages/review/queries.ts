import { queryOptions } from "@tanstack/react-query";
import { body, client, type Schemas } from "../../api/client";

export type Subject = Schemas["ReviewBody"];
export type Other = Schemas["OtherBody"];
export type PairFigures = Schemas["PairBody"];
export type Figures = Schemas["FiguresBody"];
export type Note = Schemas["NoteBody"];
export type Mark = Schemas["MarkBody"];
export type Kind = Subject["kind"];

/** What is reviewed, with the camera and pass. */
export interface Of {
  kind: string;
  name: string;
  pass: number;
}

const params = ({ kind, name, pass }: Of) => ({ path: { kind, name }, query: { camera_pass: pass } });

export const reviewableQuery = queryOptions({
  queryKey: ["reviews"],
  queryFn: () => body(client.GET("/api/reviews")),
});

export const subjectQuery = (of: Of) =>
  queryOptions({
    queryKey: ["review", of.kind, of.name, of.pass],
    queryFn: () => body(client.GET("/api/reviews/{kind}/{name}", { params: params(of) })),
    retry: false,
  });

export const figuresQuery = (of: Of) =>
  queryOptions({
    queryKey: ["figures", of.kind, of.name, of.pass],
    queryFn: () => body(client.GET("/api/reviews/{kind}/{name}/figures", { params: params(of) })),
    // News of progress is answered by itself; this is for news that was missed.
    refetchInterval: (query) =>
      query.state.data && ["queued", "running"].includes(query.state.data.state) ? 1500 : false,
  });

export const measure = (of: Of) =>
  body(client.POST("/api/reviews/{kind}/{name}/figures", { params: params(of) }));

export const stopMeasuring = (of: Of) =>
  body(client.POST("/api/reviews/{kind}/{name}/figures/stop", { params: params(of) }));

/** Two subjects with their frames matched. */
export interface InPair {
  one: Of;
  other: Of;
  by: "frame" | "time";
  offset: number;
}

const pairParams = ({ one, other, by, offset }: InPair) => ({
  path: { kind: one.kind, name: one.name },
  query: {
    camera_pass: one.pass,
    other_kind: other.kind as Kind,
    other: other.name,
    other_pass: other.pass,
    by,
    offset,
  },
});

export const pairQuery = (pair: InPair) =>
  queryOptions({
    queryKey: ["figures", "pair", pair.one, pair.other, pair.by, pair.offset],
    retry: false,
    queryFn: () => body(client.GET("/api/reviews/{kind}/{name}/pair", { params: pairParams(pair) })),
    refetchInterval: (query) =>
      query.state.data && ["queued", "running"].includes(query.state.data.state) ? 1500 : false,
  });

export const measurePair = (pair: InPair) =>
  body(client.POST("/api/reviews/{kind}/{name}/pair", { params: pairParams(pair) }));

export const notesQuery = (of: Of) =>
  queryOptions({
    queryKey: ["notes", of.kind, of.name],
    queryFn: () =>
      body(
        client.GET("/api/reviews/{kind}/{name}/notes", {
          params: { path: { kind: of.kind, name: of.name } },
        }),
      ),
  });

export const frameAddress = (of: Of, content: string, frame: number, wide: number, stops: number) =>
  `/api/reviews/${of.kind}/${of.name}/frames/${frame}?camera_pass=${of.pass}${wide ? `&wide=${wide}` : ""}${stops ? `&stops=${stops}` : ""}&content=${content}`;

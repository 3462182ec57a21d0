import { queryOptions } from "@tanstack/react-query";
import { body, client, type Schemas } from "../../api/client";

export type Subject = Schemas["ReviewBody"];
export type Other = Schemas["OtherBody"];
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

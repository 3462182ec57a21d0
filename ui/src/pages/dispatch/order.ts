import { body, client, type Schemas } from "../../api/client";

/** Files of a take or of a reel, to be made together. */
export type Order =
  | { run: number; body: Schemas["DispatchOrder"] }
  | { reel: string; body: Schemas["ReelDispatch"] };

/** Orders files. */
export const giveOrder = (order: Order) =>
  body(
    "run" in order
      ? client.POST("/api/runs/{run_id}/dispatch", {
          params: { path: { run_id: order.run } },
          body: order.body,
        })
      : client.POST("/api/reels/{reel_id}/dispatch", {
          params: { path: { reel_id: order.reel } },
          body: order.body,
        }),
  );

/** The names that the files of an order would get. */
export const askNames = (order: Order) =>
  body(
    "run" in order
      ? client.POST("/api/runs/{run_id}/file-names", {
          params: { path: { run_id: order.run } },
          body: order.body,
        })
      : client.POST("/api/reels/{reel_id}/file-names", {
          params: { path: { reel_id: order.reel } },
          body: order.body,
        }),
  );

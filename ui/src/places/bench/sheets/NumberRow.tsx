import type { ComponentProps, ReactNode } from "react";
import { NumberEntry } from "../../../parts/NumberEntry";
import { Row } from "./Row";

type Props = ComponentProps<typeof NumberEntry> & { name: string; unit?: string; hint?: ReactNode };

/** A row with one number. */
export function NumberRow({ name, unit, hint, ...entry }: Props) {
  return (
    <Row name={name} unit={unit} hint={hint}>
      <NumberEntry {...entry} />
    </Row>
  );
}

import type { ComponentProps, ReactNode } from "react";
import { Choice } from "../../../parts/Choice";
import { Row } from "./Row";

type Props<T extends string> = ComponentProps<typeof Choice<T>> & { name: string; hint?: ReactNode };

/** A row with one of a few to choose. */
export function ChoiceRow<T extends string>({ name, hint, ...choice }: Props<T>) {
  return (
    <Row name={name} hint={hint}>
      <Choice {...choice} />
    </Row>
  );
}

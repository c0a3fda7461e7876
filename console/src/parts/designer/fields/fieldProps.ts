import type { Spot } from "../../../core/api/client";
import { type Schema } from "../../../core/designer/schema";
import { type Path } from "../../../core/document/tree";

export interface FieldProps {
  name: string;
  schema: Schema;
  path: Path;
  spot: Spot;
  required?: boolean;
  label?: string;
  /** Whether an expression can be put together from comparisons. */
  condition?: boolean;
}

export const doc = (schema: Schema) => schema.description?.replaceAll("`", "");

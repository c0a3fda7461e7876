import type { ExpressionResult } from "../api/types";
import { expressionAt, expressionsIn, type Piece } from "./templates";

/** A text with its expressions, and what the service said of each. */
export interface Looked {
  text: string;
  pieces: Piece[];
  looks: ExpressionResult[];
}

/** A part of an expression with the value it had; offsets count from the beginning of the whole text. */
export interface ValuedPart {
  from: number;
  to: number;
  value: string | null;
}

/** The expressions to look at: the text itself, or those in a text with `${…}`. */
export const piecesOf = (text: string, template: boolean): Piece[] =>
  template ? expressionsIn(text) : text.trim() === "" ? [] : [{ text, from: 0 }];

/** The expression of a text that an offset lies in; null outside of all. */
export const pieceAt = (text: string, offset: number, template: boolean): Piece | null =>
  template ? expressionAt(text, offset) : { text, from: 0 };

/** What was said of the expression that the caret is in, or else of the first. */
export const lookAt = ({ pieces, looks }: Looked, caret: number): ExpressionResult | null =>
  looks[
    Math.max(
      0,
      pieces.findIndex((p) => holds(p, caret)),
    )
  ] ?? null;

/**
 * The smallest part at an offset. Null where none is, and when the text is another one by now: what was said of the old
 * one has places that the new one need not have.
 */
export function partAt({ text: then, pieces, looks }: Looked, text: string, offset: number): ValuedPart | null {
  if (text !== then) return null;
  const index = pieces.findIndex((p) => holds(p, offset));
  const from = pieces[index]?.from ?? 0;
  const part = looks[index]?.parts
    .filter((p) => p.start + from <= offset && offset <= p.start + from + p.text.length)
    .sort((a, b) => a.text.length - b.text.length)[0];
  return part ? { from: from + part.start, to: from + part.start + part.text.length, value: part.value } : null;
}

const holds = (piece: Piece, offset: number) => piece.from <= offset && offset <= piece.from + piece.text.length;

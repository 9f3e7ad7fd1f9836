import type { ConnectorPart } from '$lib/core/connector';
import type { Problem } from '$lib/core/problem/problem';

/** A request and its answer, as a try shows them. */
export interface ShownExchange {
  readonly method: string;
  readonly url: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly signs: readonly string[];
  readonly body: string | null;
  readonly status: number;
  readonly answerHeaders: Readonly<Record<string, string>>;
  readonly answer: string;
  readonly isCut: boolean;
}

/** What came of a try. */
export interface TriedPart {
  readonly inputs: { readonly resource?: string; readonly from?: string; readonly to?: string };
  readonly exchanges: readonly ShownExchange[];
  readonly items: readonly unknown[] | null;
  readonly refused: number;
  readonly problem: Problem | null;
}

export interface ShownRecording {
  readonly id: number;
  readonly name: string;
  readonly part: ConnectorPart;
  readonly madeAt: number;
  readonly madeBy: string;
}

/** A JSON text with line breaks; any other as it is. */
export function readable(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch (error) {
    if (error instanceof SyntaxError) return text;
    throw error;
  }
}

import { z } from 'zod';
import type { Statistic } from '../series';
import {
  isFormula,
  isOfLines,
  isPick,
  narrowsLines,
  picked,
  type LinesRow,
  type Signal,
  type SignalPick
} from '../signal';
import { standardLabels } from '../signal/conditions';

/** The most pickers of one board. */
export const mostPickers = 12;

const pickerName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, { error: 'A picker is named by a small letter, then letters, digits or -.' });

/** A choice of a label's values for a whole board. */
export const pickerSchema = z.strictObject({
  name: pickerName,
  title: z.string().trim().min(1, { error: 'Give the picker a title.' }).max(60),
  label: z.string().min(1).max(120),
  /** Whether several values can be chosen together. */
  several: z.boolean().default(true),
  /** What is chosen until somebody chooses; everything when it is empty. */
  usual: z.array(z.string().min(1).max(200)).max(200).default([]),
  /** The metric whose series have the values to choose from; those of all panels by default. */
  metric: z.string().min(1).max(200).optional()
});
export type Picker = z.infer<typeof pickerSchema>;

/** Chosen values by the name of the picker; empty chooses everything. */
export type Choices = Readonly<Record<string, readonly string[]>>;

/** Whether an address says what is chosen: a parameter for each picker, once for each value; one with an empty value chooses everything. */
const parameter = (name: string): string => `pick.${name}`;

/**
 * What an address chooses; where it says nothing, what is usual.
 *
 * @example choicesFrom(new URLSearchParams('pick.account=corallo-prod'), pickers) // { account: ['corallo-prod'] }
 */
export function choicesFrom(search: URLSearchParams, pickers: readonly Picker[]): Choices {
  return Object.fromEntries(
    pickers.map(({ name, usual, several }) => {
      const given = search.getAll(parameter(name));
      const values = (given.length > 0 ? given : usual).filter((value) => value !== '').slice(0, 200);
      return [name, several ? values : values.slice(0, 1)];
    })
  );
}

/** The same address with another choice of one picker. @example withChoice(search, picker, ['corallo-prod']).toString() */
export function withChoice(
  search: URLSearchParams,
  { name, usual }: Picker,
  chosen: readonly string[]
): URLSearchParams {
  const next = new URLSearchParams(search);
  next.delete(parameter(name));
  const isUsual = chosen.length === usual.length && chosen.every((value) => usual.includes(value));
  if (isUsual) return next;
  for (const value of chosen.length === 0 ? [''] : chosen) next.append(parameter(name), value);
  return next;
}

/** Labels that the series of a metric have beyond those that every series has. */
export type LabelsOf = (metric: string) => readonly string[];

/**
 * A panel's signal as the pickers narrow it: every pick whose metric has a picker's label gets it as a condition, so do rows of lines; references to pickers are filled in.
 *
 * @param ignores names of pickers that the panel does not follow
 * @example pickedSignal(signal, pickers, { account: ['corallo-prod'] }, [], () => []).rows[0].where
 * // [{ label: 'account', is: ['corallo-prod'] }]
 */
export function pickedSignal(
  signal: Signal,
  pickers: readonly Picker[],
  choices: Choices,
  ignores: readonly string[],
  labelsOf: LabelsOf
): Signal {
  const followed = pickers.filter(({ name }) => !ignores.includes(name));
  const followedChoices = Object.fromEntries(followed.map(({ name }) => [name, choices[name] ?? []]));
  return {
    ...signal,
    rows: signal.rows.map((row) => {
      if (isFormula(row)) return row;
      const referred = new Set(row.where.flatMap((condition) => ('picker' in condition ? [condition.picker] : [])));
      const added = followed.flatMap(({ name, label }) => {
        const chosen = choices[name] ?? [];
        const applies = chosen.length > 0 && !referred.has(name) && isNarrowedBy(row, label, labelsOf);
        return applies ? [{ label, is: [...chosen] }] : [];
      });
      return { ...row, where: [...picked(row.where, followedChoices), ...added] };
    })
  };
}

/** How a signal is read at the moment besides what is picked: with another statistic for each of its picks, in another step. */
export interface Reading {
  readonly statistic?: Statistic | undefined;
  readonly step?: Signal['step'] | undefined;
}

/**
 * A signal with another statistic and step, where they are said.
 *
 * @example readAs(signal, { step: 'PT5M' }).step // 'PT5M'
 */
export function readAs(signal: Signal, { statistic, step }: Reading): Signal {
  if (statistic === undefined && step === undefined) return signal;
  return {
    ...signal,
    rows: statistic ? signal.rows.map((row) => (isPick(row) ? { ...row, statistic } : row)) : signal.rows,
    step: step ?? signal.step
  };
}

/** Which pickers narrow a signal, whatever is chosen. @example followedBy(signal, pickers, [], () => []).map(({ title }) => title) */
export const followedBy = (
  { rows }: Signal,
  pickers: readonly Picker[],
  ignores: readonly string[],
  labelsOf: LabelsOf
): Picker[] =>
  pickers.filter(
    ({ name, label }) =>
      !ignores.includes(name) &&
      rows.some(
        (row) =>
          !isFormula(row) &&
          (isNarrowedBy(row, label, labelsOf) ||
            row.where.some((condition) => 'picker' in condition && condition.picker === name))
      )
  );

const isNarrowedBy = (row: SignalPick | LinesRow, label: string, labelsOf: LabelsOf): boolean =>
  isOfLines(row) ? narrowsLines(label) : hasLabel(row.metric, label, labelsOf);

const hasLabel = (metric: string, label: string, labelsOf: LabelsOf): boolean =>
  standardLabels.some((standard) => standard === label) || label.startsWith('tag.') || labelsOf(metric).includes(label);

/** A second picker like one, after it; null when the board has as many as it may. @example duplicatePicker(pickers, 'region')?.[1].title // 'Region, copy' */
export function duplicatePicker(pickers: readonly Picker[], name: string): Picker[] | null {
  const index = pickers.findIndex((one) => one.name === name);
  const picker = pickers[index];
  if (!picker || pickers.length >= mostPickers) return null;
  const taken = pickers.map((one) => one.name);
  const copy = { ...picker, name: freePickerName(picker.name, taken), title: `${picker.title.slice(0, 53)}, copy` };
  return [...pickers.slice(0, index + 1), copy, ...pickers.slice(index + 1)];
}

/** A name for a picker of a label that no other has. @example freePickerName('account', ['account']) // 'account-2' */
export function freePickerName(label: string, taken: readonly string[]): string {
  const plain =
    label
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+|-+$/g, '')
      .slice(0, 36) || 'label';
  let name = plain;
  for (let number = 2; taken.includes(name); number++) name = `${plain}-${number}`;
  return name;
}

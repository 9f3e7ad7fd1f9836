import { createRequire } from 'node:module';
import pdfmake from 'pdfmake';
import type { Content, TDocumentDefinitions, TableCell } from 'pdfmake/interfaces';
import { changeWords, dayWords, micros, roundMoney } from '$lib/core/cost';
import { leftText, shareText } from '$lib/core/objective';
import { isMet, periodTitle, summarySentences, type Summary } from '$lib/core/summary';
import { exactMoment, peopleDuration, type Duration, type Instant } from '$lib/core/time';
import { quantityText } from '$lib/core/units';
import { paper } from '../../notify/pictures/paper';
import { pictureWords, type SummaryPictures } from './draw-days';

const fontFile = (part: string, weight: number): string =>
  createRequire(import.meta.url).resolve(
    `@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-${part}-${weight}-normal.woff`
  );
const faces = (part: string) => {
  const [normal, bold] = [fontFile(part, 400), fontFile(part, 700)];
  return { normal, bold, italics: normal, bolditalics: bold };
};
const fonts = { Own: faces('latin'), Further: faces('latin-ext') };
pdfmake.setFonts(fonts);
pdfmake.setUrlAccessPolicy(() => false);
// Nothing but the fonts is read.
const fontFiles = new Set(Object.values(fonts).flatMap((face) => Object.values(face)));
pdfmake.setLocalAccessPolicy((path) => fontFiles.has(path));

/** What is in the file of Latin letters; what is beyond it, and no letter of other Latin languages, has no shape in our fonts. */
const isLatin =
  /^[ -~\u00a0-\u00ff\u0131\u0152\u0153\u02c6\u02dc\u2013\u2014\u2018-\u201e\u2020-\u2022\u2026\u2030\u2039\u203a\u20ac\u2122\u2212]$/;
const isFurther = /^[\u0100-\u024f\u1e00-\u1eff]$/;

/** A text in the fonts that have its letters; for a letter that none has stands a question mark. */
function inFonts(text: string): { text: string; font: string }[] {
  const runs: { text: string; font: string }[] = [];
  for (const letter of text) {
    const font = isFurther.test(letter) ? 'Further' : 'Own';
    const shown = font === 'Further' || isLatin.test(letter) || letter === '\n' ? letter : '?';
    const last = runs.at(-1);
    if (last?.font === font) last.text += shown;
    else runs.push({ text: shown, font });
  }
  return runs;
}

const heading = (text: string): Content => ({ text: inFonts(text), style: 'heading' });
const cell = (text: string, more: object = {}): TableCell => ({ text: inFonts(text), ...more });

function table(head: readonly string[], rows: readonly (readonly string[])[]): Content {
  return {
    layout: 'lightHorizontalLines',
    margin: [0, 0, 0, 8],
    table: {
      headerRows: 1,
      dontBreakRows: true,
      widths: head.map((_, index) => (index === 0 ? '*' : 'auto')),
      body: [
        head.map((text, index) => cell(text, { color: paper.quiet, alignment: index === 0 ? 'left' : 'right' })),
        ...rows.map((row) => row.map((text, index) => cell(text, { alignment: index === 0 ? 'left' : 'right' })))
      ]
    }
  };
}

/** A heading with its picture, on one page. */
const pictured = (title: string, png: Buffer | null, alt: string): Content => ({
  unbreakable: true,
  stack: [
    heading(title),
    ...(png === null
      ? []
      : [
          { text: alt, color: paper.quiet, margin: [0, 0, 0, 2] as [number, number, number, number] },
          {
            ...{ image: `data:image/png;base64,${png.toString('base64')}`, width: 500 },
            margin: [0, 0, 0, 8] as [number, number, number, number]
          }
        ])
  ]
});

/**
 * A summary as a PDF of A4 pages.
 *
 * @example (await summaryPdf('Week', summary, drawDays(summary))).subarray(0, 4).toString() // '%PDF'
 */
export const summaryPdf = (name: string, summary: Summary, pictures: SummaryPictures): Promise<Buffer> =>
  pdfmake.createPdf(summaryDocument(name, summary, pictures)).getBuffer();

/** What the pages of a summary hold: the sentences, then the numbers. @example summaryDocument('Week', summary, drawDays(summary)).info?.title // 'Week: April 2026' */
export function summaryDocument(name: string, summary: Summary, pictures: SummaryPictures): TDocumentDefinitions {
  const { kind, zone, incidents, services, longest, promises, cost, changed, moreChanged, sizes } = summary;
  const before = `${kind === 'week' ? 'Week' : 'Month'} before`;
  const title = `${name}: ${periodTitle(kind, summary, zone)}`;
  return {
    info: { title, creator: 'Bussola' },
    pageSize: 'A4',
    pageMargins: [46, 50, 46, 50],
    defaultStyle: { font: 'Own', fontSize: 10, color: paper.ink, lineHeight: 1.2 },
    styles: { heading: { fontSize: 13, bold: true, margin: [0, 8, 0, 4] } },
    footer: (page, pages) => ({
      text: `Put together ${exactMoment(summary.madeAt, zone)} · ${page} of ${pages}`,
      ...{ color: paper.quiet, fontSize: 8, margin: [46, 16, 46, 0] }
    }),
    content: [
      { text: inFonts(title), fontSize: 18, bold: true, margin: [0, 0, 0, 8] },
      { ul: summarySentences(summary).map((text) => ({ text: inFonts(text) })), margin: [0, 0, 0, 8] },
      pictured('Incidents', pictures.incidents, pictureWords.incidents),
      table(
        ['How grave', 'Raised', before],
        incidents.bySeverity.map(({ severity, count, earlier }) => [severity, String(count), String(earlier)])
      ),
      ...(services.length === 0
        ? []
        : [
            heading('Services'),
            table(
              ['Service', 'Resources', 'Raised', before, 'Gravest'],
              services.map(({ title, resources, count, earlier, worst }) => [
                ...[title, resources.toLocaleString('en'), String(count), String(earlier), worst ?? 'none']
              ])
            )
          ]),
      ...(longest.length === 0
        ? []
        : [
            heading('Longest incidents'),
            table(
              ['Incident', 'Severity', 'Lasted'],
              longest.map(({ alarm, subject, severity, length, closedAt }) => [
                alarm === subject ? alarm : `${alarm} on ${subject}`,
                severity,
                `${peopleDuration(length as Duration)}${closedAt === null ? ', open' : ''}`
              ])
            )
          ]),
      ...(promises.length === 0
        ? []
        : [
            heading('Promises'),
            table(
              ['Promise', 'Promised', 'Good', 'Budget left', ''],
              promises.map((one) => [
                `${one.name} (${one.over})`,
                `${one.targetPercent} %`,
                one.good === null ? 'unknown' : shareText(one.good),
                one.left === null ? 'unknown' : leftText(one.left),
                { true: 'met', false: 'broken', null: '' }[String(isMet(one)) as 'true' | 'false' | 'null']
              ])
            )
          ]),
      ...(cost === null ? [] : [pictured('Cost', pictures.cost, pictureWords.cost), costTable(cost, before)]),
      ...(sizes.length === 0
        ? []
        : [
            heading('What is stored'),
            table(
              ['', 'At its end', 'At its beginning'],
              sizes.map(({ what, unit, value, earlier }) => [
                what,
                quantityText(value, unit),
                earlier === null ? 'unknown' : quantityText(earlier, unit)
              ])
            )
          ]),
      ...(changed.length === 0
        ? []
        : [
            heading('What was changed'),
            table(
              ['What', 'When'],
              [
                ...changed.map(({ at, text }) => [text, momentText(at, zone)]),
                ...(moreChanged > 0 ? [[`${moreChanged} more`, '']] : [])
              ]
            )
          ])
    ]
  };
}

const momentText = (at: Instant, zone: string): string => exactMoment(at, zone).slice(0, 16);

function costTable(cost: NonNullable<Summary['cost']>, before: string): Content {
  const { currency, services, total, earlier, changes } = cost;
  const money = (amount: number | null) => (amount === null ? 'unknown' : roundMoney(micros(amount), currency));
  const line = (title: string, now: number, then: number | null) => [
    ...[title, money(now), money(then), (then === null ? null : changeWords(now, then)) ?? '']
  ];
  return {
    stack: [
      table(
        ['Service', 'Cost', before, ''],
        [...services.map((one) => line(one.title, one.total, one.earlier)), line('All', total, earlier)]
      ),
      ...(changes.length === 0
        ? []
        : [
            table(
              ['What changed its cost', 'Since', 'A day', 'Before'],
              changes.map(({ what, date, before: was, after }) => [
                ...[what, dayWords(date), money(Math.round(after * 1_000_000)), money(Math.round(was * 1_000_000))]
              ])
            )
          ])
    ]
  };
}

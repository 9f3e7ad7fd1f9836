// npm run units: writes the table of UCUM units that the core converts with, from the package that carries the UCUM definitions.
import { writeFileSync } from 'node:fs';
import ucum from '@lhncbc/ucum-lhc';

ucum.UcumLhcUtils.getInstance(); // reads the definitions
const dimensions = ['length', 'time', 'mass', 'angle', 'temperature', 'charge', 'light'];
/** What is defined by a division alone, such as diopters by /m: the package has lost the stroke. */
const inverted = new Set(['[diop]', '[mesh_i]', 'Bd']);
/** Degrees whose zero is not that of the kelvin. */
const zeros = { Cel: 273.15, '[degF]': (459.67 * 5) / 9, '[degRe]': 273.15 };
const information = { bit: 1, By: 8 };

const lines = ucum.UnitTables.getInstance()
  .allUnitsByDef()
  .filter(({ source_, csCode_ }) => source_ === 'UCUM' && !/[.\/]/.test(csCode_.replace(/\[[^\]]*\]/g, '')))
  .map((unit) => {
    const code = unit.csCode_;
    const isOwn = unit.isArbitrary_ || (unit.isSpecial_ && zeros[code] === undefined);
    const measures = isOwn
      ? { [code]: 1 }
      : information[code]
        ? { information: 1 }
        : Object.fromEntries((unit.dim_?.dimVec_ ?? []).map((exponent, i) => [dimensions[i], exponent]));
    if (inverted.has(code)) for (const dimension in measures) measures[dimension] *= -1;
    if (!isOwn && unit.moleExp_) measures.amount = unit.moleExp_;
    const spelt = Object.entries(measures)
      .filter(([, exponent]) => exponent !== 0)
      .map(([dimension, exponent]) => `${dimension}${exponent === 1 ? '' : ` ${exponent}`}`)
      .join(',');
    const factor = isOwn
      ? 1
      : inverted.has(code)
        ? 1 / unit.magnitude_
        : (information[code] ?? (code === '[degRe]' ? 1.25 : unit.magnitude_));
    const symbol = (unit.printSymbol_ ?? '').replace(/<[^>]+>/g, '').trim();
    // What a unit measures is no name of it.
    const synonyms = (unit.synonyms_ ?? '')
      .split(';')
      .map((one) => one.trim())
      .filter((one) => one !== '' && !/^(magnet|luminous)/.test(one))
      .join('; ');
    const trimmed = (fields) => fields.join('|').replace(/\|+$/, '');
    return {
      measure: trimmed([
        code,
        symbol === '' || symbol === code ? '' : symbol,
        spelt,
        String(factor),
        zeros[code] === undefined ? '' : String(zeros[code]),
        unit.isMetric_ || unit.isBase_ || code === 'g' ? 'metric' : ''
      ]),
      name: trimmed([code, unit.name_ || 'percent', synonyms])
    };
  });

const notice = `// Written by scripts/units.mjs. This product includes all or a portion of the UCUM table, UCUM codes, and UCUM definitions, copyright 1995-2009, Regenstrief Institute, Inc. and the
// Unified Codes for Units of Measures (UCUM) Organization. All rights reserved; used under the license at https://ucum.org/license.`;
const written = (file, name, comment, rows) =>
  writeFileSync(
    `src/lib/core/units/${file}.ts`,
    `${notice}\n\n/** ${comment} */\nexport const ${name} = String.raw\`\n${rows
      .join('\n')
      .replaceAll('`', '')
      .replace(/[^\S\n]/g, ' ')}\n\`;\n`
  );
written(
  'ucum-table',
  'ucumTable',
  'Every atom of UCUM, one a line: code, symbol, what it measures with exponents, how many base units it is, its zero in base units, whether it takes prefixes.',
  lines.map(({ measure }) => measure)
);
written(
  'ucum-names',
  'ucumNames',
  'What the atoms of UCUM are called, one a line: code, name, synonyms. Only what searches for units loads it.',
  lines.map(({ name }) => name)
);
console.log(`${lines.length} units`);

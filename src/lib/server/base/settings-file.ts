import { parseEnv } from 'node:util';
import { closestOf } from './closest';
import type { SettingFault } from './config';
import { settingNames } from './setting-names';

/** What a settings file says. */
export interface SettingsFile {
  readonly values: Readonly<Record<string, string>>;
  readonly faults: readonly SettingFault[];
}

/** More is no settings file. */
const longestFile = 100_000;

/**
 * Reads a settings file: a line `NAME=value` for each setting, empty lines, and comments after `#`. Values with spaces or `#` in them stand in quotes.
 *
 * @param file as it is called in faults
 * @example readSettings('PORT=3000 # behind the proxy\n', 'bussola.conf').values // { PORT: '3000' }
 */
export function readSettings(text: string, file: string): SettingsFile {
  if (text.length > longestFile)
    return { values: {}, faults: [{ name: file, why: `has more than ${longestFile} characters` }] };
  const values: Record<string, string> = {};
  const faults: SettingFault[] = [];
  text.split('\n').forEach((line, index) => {
    const place = `${file}, line ${index + 1}`;
    const trimmed = line.trim();
    if (trimmed === '' || trimmed.startsWith('#')) return;
    const [, name] = /^(?:export\s+)?([A-Za-z_][A-Za-z0-9_]*)\s*=/.exec(trimmed) ?? [];
    if (name === undefined) faults.push({ name: place, why: 'is neither a comment nor NAME=value' });
    else if (!settingNames.includes(name)) faults.push({ name: place, why: unknownSetting(name) });
    else if (name in values) faults.push({ name: place, why: `sets ${name} a second time` });
    // Each line by itself: a line that cannot be read must not swallow the next one.
    else values[name] = parseEnv(trimmed)[name] ?? '';
  });
  return { values, faults };
}

/** What is wrong with a name that is no setting. @example unknownSetting('BUSSOLA_STMP') // 'there is no setting BUSSOLA_STMP; did you mean BUSSOLA_SMTP?' */
export function unknownSetting(name: string): string {
  const near = closestOf(name, settingNames);
  return `there is no setting ${name}${near === null ? '' : `; did you mean ${near}?`}`;
}

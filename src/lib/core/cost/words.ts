import { serviceByKey } from '../services';
import { unknownService, type ChargeCategory } from './bill';
import type { CostDimension } from './cost-report';
import type { Micros } from './money';
import type { Month } from './month';

const categoryWords: Readonly<Record<ChargeCategory, string>> = {
  usage: 'Usage',
  purchase: 'Purchases',
  tax: 'Taxes',
  credit: 'Credits',
  adjustment: 'Adjustments'
};

/** What a group of costs is called. @example groupWords('service', 'objects', '') // 'Objects' */
export function groupWords(by: CostDimension, value: string, title: string): string {
  if (by === 'service') return value === unknownService || value === '' ? 'Unallocated' : serviceByKey(value).title;
  if (by === 'category') return categoryWords[value as ChargeCategory] ?? value;
  if (value === '') return by.startsWith('label:') ? 'Without the label' : 'Unallocated';
  if (by === 'resource') return title === '' ? (value.split('\n')[1] ?? value) : title;
  return value;
}

const dimensionWord: Readonly<Record<string, string>> = {
  service: 'service',
  account: 'account',
  region: 'region',
  resource: 'resource',
  usage: 'usage',
  category: 'kind of charge'
};
/** What costs are divided by, within a sentence. @example dimensionWords('label:team') // 'label team' */
export const dimensionWords = (by: CostDimension): string =>
  by.startsWith('label:') ? `label ${by.slice('label:'.length)}` : (dimensionWord[by] ?? by);

/** An amount without its cents, as headings have it; small ones keep them. @example roundMoney(19_512_340_000 as Micros, 'EUR') // '€19,512' */
export function roundMoney(amount: Micros, currency: string): string {
  const digits = Math.abs(amount) >= 100_000_000 ? 0 : 2;
  return new Intl.NumberFormat('en', {
    ...{ style: 'currency', currency },
    ...{ minimumFractionDigits: digits, maximumFractionDigits: digits }
  }).format(amount / 1_000_000);
}

/** An amount to three digits, as what is not known better is told. @example aboutMoney(19_512.34, 'EUR') // '€19,500' */
export function aboutMoney(amount: number, currency: string): string {
  const size = Math.abs(amount);
  const unit = size === 0 ? 1 : 10 ** Math.floor(Math.log10(size) - 2);
  const digits = unit >= 1 ? 0 : 2;
  return new Intl.NumberFormat('en', {
    ...{ style: 'currency', currency },
    ...{ minimumFractionDigits: digits, maximumFractionDigits: digits }
  }).format(Math.round(amount / unit) * unit);
}

/** A change in per cent with its sign; null where there was nothing before. @example changeWords(196, 100) // '+96 %' */
export function changeWords(now: number, before: number): string | null {
  if (before === 0) return null;
  const share = Math.round(((now - before) / Math.abs(before)) * 100);
  if (share === 0) return '0 %';
  if (Math.abs(share) >= 1000) return `${share > 0 ? '×' : '−'} ${Math.abs(Math.round(now / before))}`;
  return `${share > 0 ? '+' : '−'}${Math.abs(share)} %`;
}

/** How often something is what it was, as people say it. @example timesWords(174, 88) // 'twice as much' */
export function timesWords(after: number, before: number): string {
  if (before <= 0) return 'is new';
  const times = after / before;
  if (times >= 1.85 && times <= 2.15) return 'twice as much';
  if (times >= 2.15) return `${times.toFixed(times < 10 ? 1 : 0)} times as much`;
  return times > 1 ? `${Math.round((times - 1) * 100)} % more` : `${Math.round((1 - times) * 100)} % less`;
}

/** A month's name, with its year where it is not that of now. @example monthWords(monthOf('2026-11'), 2026) // 'November' */
export function monthWords({ name }: Month, year: number): string {
  const at = new Date(`${name}-01T00:00:00Z`);
  return new Intl.DateTimeFormat('en', {
    ...{ month: 'long', timeZone: 'UTC' },
    ...(at.getUTCFullYear() === year ? {} : { year: 'numeric' as const })
  }).format(at);
}

/** A day within its year. @example dayWords('2026-11-14') // '14 Nov' */
export const dayWords = (date: string): string => {
  const at = new Date(`${date}T00:00:00Z`);
  return `${at.getUTCDate()} ${new Intl.DateTimeFormat('en', { month: 'short', timeZone: 'UTC' }).format(at)}`;
};

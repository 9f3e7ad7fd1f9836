import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { problemsOf } from '$lib/core/forms/problems';
import { jsonOrNull } from '$lib/core/forms/json';
import { Refusal } from '$lib/core/problem/problem';
import { nameOfTarget, targetListSchema, type Target, type Targets } from '$lib/core/targets';
import type { PageCaller } from './call-page';

/** A page of an account, by its name. */
export interface ListedPage {
  readonly name: string;
  readonly url: string;
  readonly labels: Readonly<Record<string, string>>;
}

/** Longer lists are refused unread. */
const mostBytes = 4 * 1024 * 1024;
const listPatienceMs = 10_000;

/**
 * The pages of an account: as they are listed in it, as a file lists them, or as another program does over HTTP.
 *
 * @param folder where files with lists lie; null where whoever runs Bussola names none
 * @throws Refusal in words for people
 */
export async function listPages({ find }: Targets, caller: PageCaller, folder: string | null): Promise<ListedPage[]> {
  if (find.by === 'list') return find.targets.map(listed);
  const text =
    find.by === 'http'
      ? (await caller.read(find.url, { accept: 'application/json', patienceMs: listPatienceMs, mostBytes })).toString(
          'utf8'
        )
      : textOfFile(find.file, folder);
  return targetsIn(text, find.by === 'http' ? find.url : find.file);
}

function targetsIn(text: string, where: string): ListedPage[] {
  const read = targetListSchema.safeParse(jsonOrNull(text));
  if (read.success) return read.data.targets.map(listed);
  const [first] = problemsOf(read.error);
  throw new Refusal(
    'unreadable',
    `The list of pages of ${where} cannot be read${first === undefined || first.path === '' ? '' : ` (at ${first.path})`}: ${first?.message ?? 'it is no JSON'}.`,
    'It should be JSON such as {"targets": [{"url": "http://192.0.2.7:9000/metrics", "labels": {"site": "perla"}}]}.'
  );
}

function textOfFile(file: string, folder: string | null): string {
  if (folder === null)
    throw new Refusal(
      'configuration',
      'Bussola reads no lists of pages from files here.',
      'Whoever runs Bussola names their folder in BUSSOLA_TARGETS.'
    );
  try {
    const path = join(folder, file);
    const stat = statSync(path);
    if (!stat.isFile()) throw new Error('it is no file');
    if (stat.size > mostBytes) throw new Error(`it has more than ${mostBytes / 1048576} MiB`);
    return readFileSync(path, 'utf8');
  } catch (error) {
    throw new Refusal(
      'unreadable',
      `The list of pages ${file} cannot be read: ${(error as Error).message}.`,
      'Check that it lies in the folder that BUSSOLA_TARGETS names, and that Bussola may read it.',
      { cause: error }
    );
  }
}

const listed = (target: Target): ListedPage => ({ name: nameOfTarget(target), url: target.url, labels: target.labels });

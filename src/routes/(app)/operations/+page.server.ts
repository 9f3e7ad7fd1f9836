import { listedOperations, shownOperation } from '$server/api/described';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ url }) => {
  const text = (url.searchParams.get('text') ?? '').toLowerCase().slice(0, 200);
  const tag = url.searchParams.get('tag');
  const all = listedOperations();
  return {
    count: all.length,
    tags: [...new Set(all.map((one) => one.tag))],
    operations: all.filter(
      (one) =>
        (tag === null || one.tag === tag) &&
        `${one.method} ${one.path} ${one.name} ${one.summary}`.toLowerCase().includes(text)
    ),
    shown: shownOperation(url.searchParams.get('operation') ?? ''),
    origin: bussola().origin
  };
};

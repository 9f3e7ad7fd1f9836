import { json } from '@sveltejs/kit';
import { groupRuleSchema } from '$lib/core/group';
import { asked } from '$server/http/asked';
import { membersOf } from '$server/query/groups/members';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Resources that are listed at most; all are counted. */
const mostListed = 100;

/** What a rule would gather: `{ match, conditions }` in, the count and the first resources out. */
export const POST: RequestHandler = ({ request }) =>
  asked(request, groupRuleSchema, async (rule) => {
    const members = await membersOf(bussola().db, rule);
    return json({
      count: members.length,
      resources: members
        .slice(0, mostListed)
        .map(({ id, name, account, region, service }) => ({ id, name, account, region, service }))
    });
  });

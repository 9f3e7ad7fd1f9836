import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { forReader } from '$server/http/reader';
import { bussola } from '$server/process/running';
import { matchSchema } from '$server/query/signals/matched';
import type { RequestHandler } from './$types';

/** What a pick selects and could choose from: `{ metric, where }` in, counts and the values of each label out. */
export const POST: RequestHandler = (event) =>
  asked(event.request, matchSchema, (pick) =>
    forReader(event, async (reader) => {
      const { questions, evaluator } = bussola();
      return json(await questions.ask(reader, null, () => evaluator.matched(pick)));
    })
  );

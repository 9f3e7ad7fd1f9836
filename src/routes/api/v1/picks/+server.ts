import { json } from '@sveltejs/kit';
import { asked } from '$server/asked';
import { forReader } from '$server/reader';
import { bussola } from '$server/running';
import { matchSchema } from '$server/signals/matched';
import type { RequestHandler } from './$types';

/** What a pick selects and could choose from: `{ metric, where }` in, counts and the values of each label out. */
export const POST: RequestHandler = (event) =>
  asked(event.request, matchSchema, (pick) =>
    forReader(event, async (reader) => {
      const { questions, store } = bussola();
      return json(await questions.ask(reader, null, () => store.samples.matched(pick)));
    })
  );

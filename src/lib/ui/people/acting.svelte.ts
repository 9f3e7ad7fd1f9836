import { invalidate } from '$app/navigation';
import { callApi, wordsOf, type CallOptions } from '../api';

/** What a page does through the API, one thing at a time: what went wrong or was done is shown on it. */
export class Acting {
  busy = $state(false);
  problem = $state('');
  done = $state('');

  /**
   * Calls the API, then reads the page again.
   *
   * @param done what is said when it worked
   * @returns the answer; null when it was refused, which is shown
   * @example await acting.call('DELETE', `/teams/${id}`, {}, 'The team is removed.')
   */
  async call<Answer = unknown>(
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    path: string,
    options: CallOptions = {},
    done = ''
  ): Promise<{ readonly answer: Answer } | null> {
    this.busy = true;
    this.problem = this.done = '';
    const reply = await callApi<Answer>(method, path, options);
    this.busy = false;
    if (reply.kind !== 'answered') {
      if (reply.kind === 'refused') this.problem = wordsOf(reply.problem);
      return null;
    }
    this.done = done;
    await invalidate('bussola:overview');
    return { answer: reply.answer };
  }
}

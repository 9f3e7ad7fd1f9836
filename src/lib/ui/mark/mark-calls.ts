import type { NewMark } from '$lib/core/mark';
import { callApi, wordsOf, type Reply } from '../api';

/** Adds a mark. @returns why it could not be added, in words; empty when it was */
export const addMark = async (mark: NewMark): Promise<string> =>
  whyNot(await callApi('POST', '/marks', { body: mark }));

/** Removes a mark. @returns why it could not be removed, in words; empty when it was */
export const removeMark = async (id: number): Promise<string> => whyNot(await callApi('DELETE', `/marks/${id}`));

const whyNot = (reply: Reply<unknown>): string => (reply.kind === 'refused' ? wordsOf(reply.problem) : '');

import { alarmExamples } from './alarms';
import { boardExamples } from './boards';
import type { Examples } from './example';
import { peopleExamples } from './people';
import { sourceExamples } from './sources';

/** Examples of requests, by method and path. Each is read by the schema of its operation: see api.test.ts. */
export const examples: Examples = { ...boardExamples, ...alarmExamples, ...peopleExamples, ...sourceExamples };

export type { Example } from './example';

import { objectiveForm, type Objective } from '$lib/core/objective';
import { AlarmedForms, type Alarmed } from '../alarms/alarmed-forms';
import { alarmOfObjective } from './objective-alarm';

export type StoredObjective = Alarmed<Objective>;

/** Promises over a period. */
export const objectives = new AlarmedForms<Objective>({
  ...{ table: 'objectives', form: objectiveForm, one: 'promise', several: 'promises', most: 100, page: 'Objectives' },
  alarmOf: alarmOfObjective,
  tell: (changes) => changes.tell('objectives', {})
});

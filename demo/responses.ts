// What Corallo Lines lets Bussola do by itself: a machine whose processor stays exhausted is restarted, one of three at a time.
import { responseSchema, usualLimits, type AutoResponse } from '../src/lib/core/response';

/**
 * @param alarmId of an alarm by its name
 * @param groupId of a group by its name
 */
export const responses = (
  alarmId: (name: string) => number,
  groupId: (name: string) => number
): readonly AutoResponse[] =>
  [
    {
      ...{ name: 'Restart booking machines', alarmId: alarmId('Processor nearly exhausted'), from: 'major' },
      ...{ heldMinutes: 15, action: { kind: 'restart' } },
      limits: { ...usualLimits, group: { groupId: groupId('booking-machines'), oneIn: 3 } }
    },
    {
      ...{
        name: 'Restart what fills its memory',
        enabled: false,
        alarmId: alarmId('Memory nearly exhausted'),
        from: 'major'
      },
      ...{ heldMinutes: 60, action: { kind: 'restart' } },
      limits: {
        ...usualLimits,
        notIn: { hours: { weekdays: [1, 2, 3, 4, 5, 6, 7], from: '06:00', to: '23:00' }, zone: 'Europe/Rome' }
      }
    }
  ].map((one) => responseSchema.parse(one));

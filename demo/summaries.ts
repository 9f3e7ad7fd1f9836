// What Corallo Lines sends to those who do not operate: the week to the harbour office each Monday.
import { summaryPlanSchema, type SummaryPlan } from '../src/lib/core/summary';

/** @param channelId of a channel by its name */
export const summaryPlans = (channelId: (name: string) => number): readonly SummaryPlan[] =>
  [
    {
      ...{ name: 'Week for the harbour office', kind: 'week', at: '08:00', zone: 'Europe/Rome' },
      channels: [channelId('Harbour office')]
    },
    {
      ...{ name: 'Month for the owners', kind: 'month', at: '08:00', zone: 'Europe/Rome' },
      channels: [channelId('#bridge')]
    }
  ].map((one) => summaryPlanSchema.parse(one));

import type { Board, PictureKind } from '$lib/core/board';

/**
 * What somebody who sees a board by a link is told besides its numbers: only what panels of the board list. Limits of alarms are drawn, but not who they are.
 */
export function sharedThings<
  Alarm extends { readonly name: string; readonly error: string | null },
  Incident,
  Service,
  Group,
  Resource
>(
  { panels }: Board,
  things: {
    readonly alarms: readonly Alarm[];
    readonly incidents: readonly Incident[];
    readonly services: readonly Service[];
    readonly groups: readonly Group[];
    readonly reporting: readonly Resource[];
  }
) {
  const shows = (...pictures: PictureKind[]) => panels.some(({ picture }) => pictures.includes(picture));
  return {
    alarms: shows('alarms') ? things.alarms : things.alarms.map((alarm) => ({ ...alarm, name: '', error: null })),
    incidents: shows('incidents', 'snapshot') ? things.incidents : [],
    services: shows('status') ? things.services : [],
    groups: shows('status') ? things.groups : [],
    reporting: shows('silent') ? things.reporting : []
  };
}

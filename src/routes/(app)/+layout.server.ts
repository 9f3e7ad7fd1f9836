import type { Person } from '$server/people/people';
import { overview } from '$server/overview';
import { bussola } from '$server/running';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals, depends, cookies }) => {
  depends('bussola:overview');
  return {
    person: locals.person as Person,
    night: cookies.get('theme') === 'night',
    overview: await overview(bussola())
  };
};

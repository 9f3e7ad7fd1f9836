import { error } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** Shown, with all of the navigation, to people who opened a page that their role does not allow. */
export const load: PageServerLoad = ({ locals }) =>
  error(403, {
    message: `Your role (${locals.person?.role ?? 'none'}) does not allow this page.`,
    remedy: 'Ask an administrator of this workspace, or choose another place on the left.'
  });

import { text } from '@sveltejs/kit';

/** The process lives. */
export const GET = () => text('ok\n');

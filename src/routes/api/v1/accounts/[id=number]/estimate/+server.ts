import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { planSchema } from '$lib/core/intake';
import { asked } from '$server/http/asked';
import { accountById } from '$server/inventory/accounts';
import { coverageOf } from '$server/intake/plan/coverage';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const estimateSchema = z.strictObject({ service: z.string().min(1).max(60), plan: planSchema });

/** What a plan would collect and cost: `{ service, plan }` in, samples, requests, price and bytes a day out. Nothing is changed. */
export const POST: RequestHandler = ({ request, params }) =>
  asked(request, estimateSchema, async (tried) => {
    const server = bussola();
    const account = await accountById(server.db, Number(params.id));
    const covered = account && (await coverageOf(server, account, tried)).services;
    const service = covered?.find((one) => one.service === tried.service);
    return service
      ? json({ ...service.estimate, collected: service.collected })
      : json({ message: 'The account has no such service.', remedy: 'Choose one of those it has.' }, { status: 404 });
  });

import { superForm, type FormOptions, type SuperForm, type SuperValidated } from 'sveltekit-superforms';

/**
 * A form that belongs to the person who fills it in: what they typed is changed by what they send and by nothing else, however often the page reads its data again.
 *
 * @example const { form, enhance } = steadyForm(untrack(() => data.form), { validators: zod4Client(channelFormSchema) });
 */
export const steadyForm = <Values extends Record<string, unknown>, Message = unknown>(
  initial: SuperValidated<Values, Message>,
  options: FormOptions<Values, Message>
): SuperForm<Values, Message> => superForm<Values, Message>(initial, { ...options, applyAction: 'never' });

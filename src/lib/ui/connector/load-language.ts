import type { CodeLanguage } from '../forms/code/code-editor';

/** What the editor knows of connectors, read together with the editor. */
export const loadConnectorLanguage = async (): Promise<CodeLanguage> =>
  (await import('./connector-language')).connectorLanguage;

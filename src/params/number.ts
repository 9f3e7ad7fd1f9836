/** Ids in addresses: 1 to 9 digits. */
export const match = (text: string): boolean => /^[1-9]\d{0,8}$/.test(text);

/** What Bussola is called at the issuer, and its secret there. */
export const issuerClient = { id: 'bussola', secret: 'corallo-issuer-demo' } as const;

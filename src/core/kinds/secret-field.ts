/**
 * Parameters that hold secrets: they are sealed before anything is planned, kept or shown. Whatever is called like one is taken for one, so that
 * a slip of the pen shows nothing.
 */
export const isSecretField = (field: string): boolean => /secret|passw|passphrase/i.test(field);

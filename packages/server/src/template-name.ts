/** What a template's package holds the shot under. */
export const TEMPLATE = 'template.json';

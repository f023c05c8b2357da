/** Where somebody goes who has signed in: a page of this server that they asked for, and no other place. */
export function pageAfter(asked: unknown): string {
  const isOwn = typeof asked === 'string' && /^\/(?![/\\])/.test(asked);
  return isOwn ? asked : '/';
}

/** Letters that a password has at least, as the contract of requests has it. */
export const LEAST_PASSWORD = 10;

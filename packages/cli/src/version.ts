/** Of the program; outputs of another one are made anew. */
export const VERSION = '0.1.0';

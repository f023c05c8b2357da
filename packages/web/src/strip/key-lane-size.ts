/** px; height of the lane in which a value's curve is drawn, and of its name beside it. */
export const CURVE_HEIGHT = 56;

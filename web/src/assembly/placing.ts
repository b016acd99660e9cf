// Where what is brought in is set down.
export type Where = 'beside' | 'origin' | 'click'

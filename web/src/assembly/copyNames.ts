// How copies of components are called: c3_r7_2 is the copy of c3 that r7 makes as its number 2.

/** The copies a copy was made by last: `c3_r7_2` by r7; nothing for what is no copy. */
export const makerOf = (component: string): string | null => component.split('_').at(-2) ?? null
/** What a copy was made of, first of all. */
export const originalOf = (component: string): string => component.split('_')[0]

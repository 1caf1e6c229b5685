/** Findings of one page of a person's list; fewer come only at its end. */
export const PERSON_PAGE = 200

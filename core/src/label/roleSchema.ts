import * as v from 'valibot';

/** A role's written name as files hold it; a person's own chains are `extra.<name>.<number>`. */
export const roleSchema = v.pipe(v.string(), v.regex(/^[\p{L}\p{N} .'-]{1,80}$/u, 'is not the name of a role'));

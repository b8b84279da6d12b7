import type { InjectionKey } from 'vue'

/** Where a thing is opened from a student's page: somebody who looks with the student's eyes stays with them. */
export const thingAt: InjectionKey<(id: string) => string> = Symbol('where a thing is')

/** Whether somebody looks at a student's page with their eyes. */
export const lookedAt: InjectionKey<boolean> = Symbol('looked at')

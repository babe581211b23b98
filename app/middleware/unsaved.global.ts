// Work that is not saved is asked about once, when one goes to another page.
export default defineNuxtRouteMiddleware((to, from) => (to.path === from.path || mayLeave(to.fullPath) ? undefined : abortNavigation()))

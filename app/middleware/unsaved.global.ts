// Work that is not saved is asked about once, when one goes to another page.
export default defineNuxtRouteMiddleware((to, from) => (to.path === from.path || canLeave(to.fullPath) ? undefined : abortNavigation()))

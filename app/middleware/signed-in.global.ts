// Everything stands behind sign-in, but for the sign-in itself, the first steps, and the links by which people choose a password.
export default defineNuxtRouteMiddleware(async (to) => {
  if (to.path === '/first' || to.path === '/invitation') return
  const session = useSessionStore()
  try {
    await session.load()
  }
  catch {
    // The sign-in page says that the server does not answer.
  }
  if (!session.person && to.path !== '/sign-in') return navigateTo({ path: '/sign-in', query: to.path === '/' ? {} : { to: to.fullPath } })
  if (session.person && to.path === '/sign-in') return navigateTo('/')
})

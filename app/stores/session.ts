import { defineStore } from 'pinia'
import { api, type Person, type Permission, type SessionAnswer } from '~/api/client'

/** Who is signed in. */
export const useSessionStore = defineStore('session', () => {
  const person = ref<Person | null>(null)
  const demo = ref<SessionAnswer['demo']>(null)
  let known = false

  async function load() {
    if (known) return
    const answer = await api.session()
    person.value = answer.person
    demo.value = answer.demo
    known = true
  }

  /** Whether who is signed in may do that. */
  function can(permission: Permission): boolean {
    return person.value?.permissions.includes(permission) === true
  }

  async function signIn(email: string, password: string) {
    person.value = (await api.signIn(email, password)).person
  }

  async function signOut() {
    await api.signOut()
    forget()
  }

  function forget() {
    person.value = null
    useDirectoryStore().data = null
    useNoticeStore().forget()
    useJobStore().forget()
  }

  return { person, demo, can, load, signIn, signOut, forget }
})

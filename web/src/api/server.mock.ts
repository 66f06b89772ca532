import { queryClient } from './queries'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { vi } from 'vitest'
import { defineComponent, h } from 'vue'

export interface Asked {
  method: string
  path: string
  query: URLSearchParams
  body: unknown
}

type Answer = { status?: number; json: unknown }

/** A server that answers what a test tells it to, in words of its own, and keeps what it was asked. */
export function mockServer(answer: (asked: Asked) => Answer | Promise<Answer>) {
  const asked: Asked[] = []
  const fetched = async (input: Request | string, init: RequestInit = {}) => {
    const request = input instanceof Request ? input : null
    const url = new URL(request?.url ?? String(input), location.origin)
    const text = request ? await request.clone().text() : ''
    const one = {
      method: request?.method ?? init.method ?? 'GET',
      path: url.pathname,
      query: url.searchParams,
      body: text ? (JSON.parse(text) as unknown) : init.body,
    }
    asked.push(one)
    const { status = 200, json } = await answer(one)
    return new Response(JSON.stringify(json), { status, headers: { 'content-type': 'application/json' } })
  }
  vi.stubGlobal('fetch', fetched)
  return asked
}

export const problem = (status: number, code: string, detail: string): Answer => ({
  status,
  json: { code, title: code, status, detail, params: {} },
})

/** Sets a composable up as a page would; `leave` takes the page away. */
export function onPage<T>(use: () => T): T & { leave: () => void } {
  let made!: T
  const page = mount(
    defineComponent(() => {
      made = use()
      return () => h('div')
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient }]] } },
  )
  return { ...made, leave: () => page.unmount() }
}

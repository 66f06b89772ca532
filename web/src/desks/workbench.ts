/** What every step shares, subject by subject: each is set up once, by the shell, and injected by itself. */
import { inject, provide, type InjectionKey } from 'vue'
import { setUpCueDesk } from './cueDesk'
import { setUpFitDesk } from './fitDesk'
import { setUpPictureDesk } from './pictureDesk'
import { setUpSession } from './session'
import { setUpTransport } from './transportDesk'

interface Subjects {
  session: ReturnType<typeof setUpSession>
  pictureDesk: ReturnType<typeof setUpPictureDesk>
  cueDesk: ReturnType<typeof setUpCueDesk>
  fitDesk: ReturnType<typeof setUpFitDesk>
  transport: ReturnType<typeof setUpTransport>
}

/** For a test, which provides no more of a subject than it needs. */
export const subjectKeys = {
  session: Symbol('session') as InjectionKey<Subjects['session']>,
  pictureDesk: Symbol('picture desk') as InjectionKey<Subjects['pictureDesk']>,
  cueDesk: Symbol('cue desk') as InjectionKey<Subjects['cueDesk']>,
  fitDesk: Symbol('fit desk') as InjectionKey<Subjects['fitDesk']>,
  transport: Symbol('transport') as InjectionKey<Subjects['transport']>,
}

/** Set up all of it, one after the other: each knows those before it. */
export function setUpWorkbench(): Subjects {
  const session = setUpSession()
  const pictureDesk = setUpPictureDesk(session)
  const cueDesk = setUpCueDesk(session, pictureDesk)
  const fitDesk = setUpFitDesk(session, cueDesk)
  const transport = setUpTransport(session, pictureDesk, cueDesk, fitDesk)
  provide(subjectKeys.session, session)
  provide(subjectKeys.pictureDesk, pictureDesk)
  provide(subjectKeys.cueDesk, cueDesk)
  provide(subjectKeys.fitDesk, fitDesk)
  provide(subjectKeys.transport, transport)
  return { session, pictureDesk, cueDesk, fitDesk, transport }
}

function injected<T>(key: InjectionKey<T>): T {
  const found = inject(key)
  if (!found) throw new Error('this is set up by the shell')
  return found
}

export const useSession = () => injected(subjectKeys.session)
export const usePictureDesk = () => injected(subjectKeys.pictureDesk)
export const useCueDesk = () => injected(subjectKeys.cueDesk)
export const useFitDesk = () => injected(subjectKeys.fitDesk)
export const useTransport = () => injected(subjectKeys.transport)

import { Modal } from 'ant-design-vue'
import { ProblemError } from '@/api/client'
import { sentence } from '@/tell'
import { i18n } from '@/words/i18n'

/** Makes codes; where somebody else's still work it asks first. Nothing where that is left. */
export async function makeCodes<T>(make: (replace: boolean) => Promise<T>): Promise<T | undefined> {
  try {
    return await make(false)
  } catch (e) {
    if (!(e instanceof ProblemError) || e.code !== 'codes-good') throw e
    const { t } = i18n.global
    return new Promise((done, fail) =>
      Modal.confirm({
        title: sentence(e),
        content: t('codes.replace-text'),
        okText: t('codes.replace'),
        cancelText: t('act.cancel'),
        onOk: () => make(true).then(done, fail),
        onCancel: () => done(undefined),
      }),
    )
  }
}

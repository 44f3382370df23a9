import '@fontsource/atkinson-hyperlegible-next/400.css'
import '@fontsource/atkinson-hyperlegible-next/400-italic.css'
import '@fontsource/atkinson-hyperlegible-next/600.css'
import '@fontsource/atkinson-hyperlegible-next/700.css'
import '@fontsource/atkinson-hyperlegible-mono/400.css'
import 'element-plus/es/components/popover/style/css'
import 'element-plus/es/components/dialog/style/css'
import './style/tokens.css'
import './style/base.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router.ts'
import { tellTrouble } from './stores/trouble.ts'

const UNLOADED = 'a part of it could not be loaded, since the server does not answer.'

/** All screens are at hand soon, so that one can go from one to another while the server is away. */
function loadScreens(): void {
  for (const { components } of router.getRoutes())
    for (const load of Object.values(components ?? {}))
      if (typeof load === 'function') void (load as () => Promise<unknown>)().catch(() => undefined)
}

const app = createApp(App)
app.config.errorHandler = tellTrouble
router.onError(() => tellTrouble(UNLOADED))
app.use(createPinia()).use(router).mount('#app')
document.documentElement.dataset.started = ''
setTimeout(loadScreens, 3000)

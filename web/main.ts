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

const app = createApp(App)
app.config.errorHandler = tellTrouble
router.onError(tellTrouble)
app.use(createPinia()).use(router).mount('#app')
document.documentElement.dataset.started = ''

import vue from '@vitejs/plugin-vue'
import { AntDesignVueResolver } from 'unplugin-vue-components/resolvers'
import components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [
    vue(),
    components({ dirs: [], dts: 'components.d.ts', resolvers: [AntDesignVueResolver({ importStyle: false })] }),
  ],
  server: { proxy: { '/api': 'http://127.0.0.1:8470' } },
  build: { target: 'es2022', chunkSizeWarningLimit: 900, reportCompressedSize: false },
})

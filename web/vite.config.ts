import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import vue from '@vitejs/plugin-vue'
import { AntDesignVueResolver } from 'unplugin-vue-components/resolvers'
import components from 'unplugin-vue-components/vite'
import { defineConfig, type Plugin } from 'vite'

/** Scripts and styles are packed once, when they are built, and not by the server at every first visit. */
function packed(): Plugin {
  return {
    name: 'packed',
    apply: 'build',
    writeBundle({ dir }) {
      const assets = join(dir!, 'assets')
      for (const name of readdirSync(assets).filter((one) => /\.(js|css)$/.test(one)))
        writeFileSync(join(assets, `${name}.gz`), gzipSync(readFileSync(join(assets, name)), { level: 9 }))
    },
  }
}

export default defineConfig({
  plugins: [
    vue(),
    packed(),
    components({ dirs: [], dts: 'components.d.ts', resolvers: [AntDesignVueResolver({ importStyle: false })] }),
  ],
  server: { proxy: { '/api': 'http://127.0.0.1:8470' } },
  // Nothing is put into a script or a style sheet: the page's policy takes fonts from files only.
  build: {
    target: 'es2022',
    chunkSizeWarningLimit: 900,
    reportCompressedSize: false,
    assetsInlineLimit: 0,
    // All that the first page needs is one script: a dozen small ones take a slow server a dozen turns.
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'first', tags: ['$initial'] }] } } },
  },
})

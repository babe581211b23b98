<script setup lang="ts">
import MarkdownIt from 'markdown-it'
import using from '../../docs/using.md?raw'

definePageMeta({ title: 'Help' })

const shown = using.replace(/^# .*\n/, '')
const slug = (text: string) => text.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '')
/** Each guide is looked for by its name. */
const guides = [...(shown.split(/^## Guides$/m)[1] ?? '').split(/^## /m)[0]!.matchAll(/^### (.+)$/gm)].map(([, title]) => (
  { title: title!, id: slug(title!) }))
const sections = [
  ...[...shown.matchAll(/^## (.+)$/gm)].map(([, title]) => ({ title: title!, id: slug(title!), guides: title === 'Guides' ? guides : [] })),
  { title: 'Glossary', id: 'glossary', guides: [] },
]
const md = new MarkdownIt()
// A heading can be pointed to; what lies outside the product is named, and not linked into nothing.
md.renderer.rules.heading_open = (tokens, i) => `<${tokens[i]!.tag} id="${slug(tokens[i + 1]!.content)}">`
md.renderer.rules.link_open = (tokens, i) => {
  const to = tokens[i]!.attrGet('href') ?? ''
  return to.startsWith('#') ? `<a href="${md.utils.escapeHtml(to)}">` : '<a>'
}
md.renderer.rules.image = () => ''
const html = md.render(shown)
const route = useRoute()
onMounted(() => document.getElementById(route.hash.slice(1))?.scrollIntoView())
</script>

<template>
  <div class="help">
    <h1 class="visually-hidden">
      Help
    </h1>
    <nav aria-label="Contents">
      <ul>
        <li
          v-for="s in sections"
          :key="s.id"
        >
          <a :href="`#${s.id}`">{{ s.title }}</a>
          <ul v-if="s.guides.length">
            <li
              v-for="g in s.guides"
              :key="g.id"
            >
              <a :href="`#${g.id}`">{{ g.title }}</a>
            </li>
          </ul>
        </li>
      </ul>
    </nav>
    <!-- eslint-disable vue/no-v-html -- docs/using.md of this product, built in; raw HTML in it is written out as text -->
    <article class="sheet text">
      <div v-html="html" />
      <h2 id="glossary">
        Glossary
      </h2>
      <dl>
        <template
          v-for="(entry, term) in GLOSSARY"
          :key="term"
        >
          <dt :id="glossaryId(term)">
            {{ entry.word }}
          </dt>
          <dd>{{ entry.text }}</dd>
        </template>
      </dl>
    </article>
    <!-- eslint-enable vue/no-v-html -->
  </div>
</template>

<style scoped>
.help { display: grid; grid-template-columns: 210px minmax(0, 760px); gap: 24px; align-items: start; }
nav { position: sticky; top: 0; }

nav ul { list-style: none; margin: 8px 0; padding: 0; display: grid; gap: 7px; font-size: 14px; }
nav ul ul { margin: 4px 0 0 14px; gap: 4px; }
.text { padding: 8px 30px 30px; }
.text :deep(h2) { margin: 26px 0 8px; scroll-margin-top: 8px; }
.text :deep(h3) { margin: 18px 0 6px; }
.text :deep(p), .text :deep(ul), .text :deep(ol), .text :deep(table) { margin: 0 0 10px; }
.text :deep(li) { margin-bottom: 4px; }
.text :deep(table) { border-collapse: collapse; width: 100%; font-size: 14px; }
.text :deep(th), .text :deep(td) {
  text-align: left;
  border-bottom: 1px solid var(--hairline);
  padding: 5px 14px 5px 0;
  vertical-align: top;
}
dt { font-weight: 700; scroll-margin-top: 8px; }
dd { margin: 0 0 8px; }
.text :deep(a:not([href])) { color: inherit; font-weight: inherit; }
@media (max-width: 820px) { .help { grid-template-columns: minmax(0, 1fr); } nav { position: static; } }
</style>

/**
 * A Screen or a plate may be called anything: whatever its name, what is delivered is read by programs that Yarlop did
 * not write as the same thing. HTML is parsed as the WHATWG's standard says (parse5), CSS by postcss, XML by saxes, tables
 * by csv-parse (RFC 4180), YAML by js-yaml.
 */
import { parse as parseTable } from 'csv-parse/sync';
import fc from 'fast-check';
import yaml from 'js-yaml';
import type { DefaultTreeAdapterMap } from 'parse5';
import { parse } from 'parse5';
import postcss from 'postcss';
import { SaxesParser } from 'saxes';
import { describe, expect, it } from 'vitest';
import { writeCss, writeHtml } from '../src/formats/css';
import { readCsv, writeCsv } from '../src/formats/csv';
import { readHomographyCsv, writeHomographyCsv, writeOpenCvYaml } from '../src/formats/homographies';
import { writeReport } from '../src/formats/report';
import { writeShapesSvg } from '../src/formats/shapes';
import { writeTransformCsv } from '../src/formats/transforms';
import type { Track } from '../src/track';

const NASTY = [
  '</style><script>window.taken = 1</script>',
  '*/ } body { display: none } /*',
  '*\\/<!--',
  '"><img src=x onerror=alert(1)>',
  "' onload='alert(1)",
  '</title><script>1</script>',
  ']]><x/>',
  '&lt;&#60;&amp;',
  '# remark',
  '=HYPERLINK("http://x","y")',
  '+1-2',
  '@sum(a1)',
  '-cmd|a',
  "'=1",
  '__proto__',
  'constructor',
  ' \u2028\u2029\u202e',
  '\ud800 half a pair',
  '- a: [b, {c',
  '\\u003cscript\\u003e',
];
/** As the recipe's schema allows them: 1 to 120 characters, no control characters. */
const names = fc.oneof(
  fc.constantFrom(...NASTY),
  fc.string({ unit: 'grapheme', minLength: 1, maxLength: 40 }).filter((s) => !/\p{Cc}/u.test(s)),
  fc.array(fc.constantFrom(...NASTY, '<', '>', '"', '=', '*/'), { minLength: 1, maxLength: 3 }).map((a) => a.join('')),
);

function trackOf(screen: string, plate: string): Track {
  const corners = [
    [100, 50],
    [420, 60],
    [410, 300],
    [90, 310],
  ] as const;
  return {
    plate: { name: plate, width: 640, height: 360, frameRate: [24, 1], firstFrame: 1001, frameCount: 2 },
    screens: [
      {
        name: screen,
        referenceFrame: 0,
        stopped: null,
        frames: [0, 1].map((frame) => ({
          frame,
          corners,
          homography: [1, 0, 0, 0, 1, 0, 0, 0, 1],
          sigma: [0.1, 0.1, 0.1, 0.1],
          trust: 0.9,
          evidence: { edges: 1 },
        })),
      },
    ],
  };
}
const content = (): { width: number; height: number } => ({ width: 300, height: 200 });

type Node = DefaultTreeAdapterMap['node'];

/** What a page holds, without its words: names of the elements and of their attributes, and the text of scripts. */
function shapeOf(html: string): string[] {
  const out: string[] = [];
  const visit = (node: Node): void => {
    if ('tagName' in node) out.push(`${node.tagName} ${node.attrs.map((a) => a.name).join(' ')}`);
    if (node.nodeName === 'script') out.push(JSON.stringify('childNodes' in node ? node.childNodes.length : 0));
    if ('childNodes' in node) node.childNodes.forEach(visit);
  };
  visit(parse(html));
  return out;
}

const whatever = (claim: (screen: string, plate: string) => void): void =>
  fc.assert(fc.property(names, names, claim), { numRuns: 300 });

describe('whatever a Screen and a plate are called', () => {
  it('a page of either has the elements that it has with a plain name', () => {
    const plain = trackOf('plain', 'plain');
    const page = shapeOf(writeHtml(plain, content, { plate: null, fills: new Map() }));
    const report = shapeOf(writeReport(plain));
    expect(page.filter((e) => e.startsWith('script'))).toHaveLength(1);
    whatever((screen, plate) => {
      const t = trackOf(screen, plate);
      expect(shapeOf(writeHtml(t, content, { plate: null, fills: new Map() }))).toEqual(page);
      expect(shapeOf(writeReport(t))).toEqual(report);
    });
  });
  it('the style sheet has the same rules, and cannot end the element that it stands in', () => {
    const rulesOf = (css: string): number => {
      let n = 0;
      postcss.parse(css).walk((node) => {
        n += node.type === 'comment' ? 0 : 1;
      });
      return n;
    };
    const plain = rulesOf(writeCss(trackOf('plain', 'plain'), content));
    whatever((screen, plate) => {
      const css = writeCss(trackOf(screen, plate), content);
      expect(rulesOf(css)).toBe(plain);
      expect(css).not.toMatch(/<\/|<!--/);
    });
  });
  it('the outlines are sound XML, with the name in their title', () => {
    whatever((screen, plate) => {
      const parser = new SaxesParser();
      const texts: string[] = [];
      parser.on('error', (e) => {
        throw e;
      });
      parser.on('text', (t) => texts.push(t));
      parser.write(writeShapesSvg(trackOf(screen, plate))).close();
      expect(texts.join('\n')).toContain(screen.replace(/\p{Surrogate}/gu, '\ufffd').slice(0, 10));
    });
  });
  it('no cell of a table is a formula, the rows are whole, and the name comes back', () => {
    whatever((screen, plate) => {
      const t = trackOf(screen, plate);
      for (const text of [writeCsv(t), writeHomographyCsv(t), writeTransformCsv(t)]) {
        const rows = parseTable(text, { comment: '#', comment_no_infix: true }) as string[][];
        expect(rows).toHaveLength(3);
        for (const cell of rows.flat()) if (!Number.isFinite(Number(cell))) expect(cell).not.toMatch(/^[=+\-@\t\r#]/);
      }
      expect(readCsv(writeCsv(t)).screens[0]!.name).toBe(screen);
      expect(readHomographyCsv(writeHomographyCsv(t)).screens[0]!.name).toBe(screen);
    });
  });
  it('OpenCV’s YAML holds it as text', () => {
    const schema = yaml.DEFAULT_SCHEMA.extend([
      new yaml.Type('tag:yaml.org,2002:opencv-matrix', { kind: 'mapping', construct: (m: unknown) => m }),
    ]);
    whatever((screen, plate) => {
      const text = writeOpenCvYaml(trackOf(screen, plate)).replace(/^%YAML:1\.0\n/, '');
      const { plate_name: own, screen_0: first } = yaml.load(text, { schema }) as {
        plate_name: string;
        screen_0: { name: string };
      };
      expect(own).toBe(plate);
      expect(first.name).toBe(screen);
    });
  });
});

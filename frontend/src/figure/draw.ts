/** Drawing a figure for hand over, off the screen. */
import { BarChart, CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { GraphicComponent, GridComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { CanvasRenderer, SVGRenderer } from "echarts/renderers";
import { light, SANS, SERIF } from "./palette";
import { roomForNumbers, type Frame } from "./frame";
import { figureOptions } from "./options";
import type { Figure } from "./types";

echarts.use([
  BarChart,
  LineChart,
  ScatterChart,
  CustomChart,
  GridComponent,
  GraphicComponent,
  CanvasRenderer,
  SVGRenderer,
]);
export { echarts };

const WIDTH = 1200;
const HEIGHT = 640;

function frameOf(figure: Figure, from: number, to: number): Frame {
  return {
    width: WIDTH,
    height: HEIGHT,
    from,
    to,
    palette: light,
    font: SANS,
    left: roomForNumbers(figure),
    titleFont: SERIF,
    forHandOver: true,
  };
}

/** The figure as a stand-alone SVG text, its fonts inside. */
export async function figureSvg(figure: Figure, from: number, to: number): Promise<string> {
  const chart = echarts.init(null, null, { renderer: "svg", ssr: true, width: WIDTH, height: HEIGHT });
  chart.setOption(figureOptions(figure, frameOf(figure, from, to)));
  const svg = chart.renderToSVGString();
  chart.dispose();
  return svg.replace(/>/, `>${await fontStyle()}`);
}

/** The figure as a PNG at twice its size. */
export async function figurePng(figure: Figure, from: number, to: number): Promise<Blob> {
  await Promise.all([document.fonts.load(`600 18px ${SERIF}`), document.fonts.load(`400 13px ${SANS}`)]);
  const canvas = document.createElement("canvas");
  const chart = echarts.init(canvas, null, { width: WIDTH, height: HEIGHT, devicePixelRatio: 2 });
  chart.setOption(figureOptions(figure, frameOf(figure, from, to)));
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
  chart.dispose();
  if (!blob) throw new Error("The picture could not be drawn.");
  return blob;
}

/** The faces a figure uses, as data, so that the SVG looks the same anywhere. */
async function fontStyle(): Promise<string> {
  const faces = [
    {
      family: "Source Sans 3",
      weight: 400,
      url: (await import("@fontsource/source-sans-3/files/source-sans-3-latin-400-normal.woff2?url")).default,
    },
    {
      family: "Source Sans 3",
      weight: 600,
      url: (await import("@fontsource/source-sans-3/files/source-sans-3-latin-600-normal.woff2?url")).default,
    },
    {
      family: "Source Serif 4",
      weight: 600,
      url: (await import("@fontsource/source-serif-4/files/source-serif-4-latin-600-normal.woff2?url"))
        .default,
    },
  ];
  const rules = await Promise.all(
    faces.map(async (face) => {
      const data = await (await fetch(face.url)).blob();
      return `@font-face{font-family:'${face.family}';font-weight:${face.weight};src:url(${await dataUrl(data)}) format('woff2')}`;
    }),
  );
  return `<style>${rules.join("")}</style>`;
}

function dataUrl(blob: Blob): Promise<string> {
  return new Promise((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => fail(new Error("A font could not be read."));
    reader.readAsDataURL(blob);
  });
}

/** The charting library with the parts that are used. */
import { BarChart, CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { GraphicComponent, GridComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { CanvasRenderer, SVGRenderer } from "echarts/renderers";

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

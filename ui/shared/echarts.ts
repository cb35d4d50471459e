import { BarChart, LineChart, TreemapChart } from 'echarts/charts';
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { init as start, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

use([BarChart, LineChart, TreemapChart, GridComponent, MarkLineComponent, TooltipComponent, CanvasRenderer]);

export const init = (host: HTMLElement) => start(host, null, { renderer: 'canvas' });

import { BarChart, TreemapChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init as start, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

use([BarChart, TreemapChart, GridComponent, TooltipComponent, CanvasRenderer]);

export const init = (host: HTMLElement) => start(host, null, { renderer: 'canvas' });

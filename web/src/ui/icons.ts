// Icons by name. One set, one weight; own drawings where the set has none.
import {
  AlertTriangle, ArrowDownToLine, Box, Check, ChevronDown, ChevronRight, ChevronUp, Circle, Clock, Combine, Terminal,
  Crosshair, Download, Dot, EllipsisVertical, Eye, EyeOff, FileBox, Gauge, Grid2x2, Hand, HelpCircle, Import, Layers, Link2, Maximize,
  Minus, Moon, Move, MoveHorizontal, Package, Paintbrush, PencilRuler, Play, Plus, Redo2, RotateCw, Ruler, Scissors, Search, Shapes, Spline, Square, SquareSplitHorizontal,
  SlidersHorizontal, Square as FaceSquare, Sun, Trash2, Undo2, Upload, X, XSquare,
} from '@lucide/vue'
import { h, type FunctionalComponent } from 'vue'

/** An own line drawing in the weight of the set. */
function own(...paths: string[]): FunctionalComponent {
  return (_props, { attrs }) =>
    h(
      'svg',
      {
        viewBox: '0 0 24 24', width: 24, height: 24, fill: 'none', stroke: 'currentColor', 'stroke-width': 2,
        'stroke-linecap': 'round', 'stroke-linejoin': 'round', ...attrs,
      },
      paths.map((d) => h('path', { d })),
    )
}

export const icons = {
  sketch: PencilRuler,
  extrude: own('M5 20l7 2 7-2', 'M5 16l7 2 7-2-7-2z', 'M12 13V3', 'M8.5 6L12 2.5 15.5 6'),
  revolve: own('M12 2v20', 'M15 6h5v12h-5', 'M9 8c-4 1-6 2.5-6 4s2 3 6 4', 'M6.5 17.5L9 16l-1-2.5'),
  shell: own('M4 6h16v13H4z', 'M7.5 6v9.5h9V6'), draft: own('M7 4h10l3 16H4z', 'M12 4v16'),
  sweep: own('M4 20c0-9 6-14 14-14', 'M2 18h4v4H2z', 'M16 3l5 3-4 4'), loft: own('M4 20h16', 'M7 20C7 12 9 8 10 4h4c1 4 3 8 3 16', 'M10 4h4'),
  pipe: own('M3 9h8a6 6 0 0 1 6 6v6', 'M3 3h8a12 12 0 0 1 12 12v6', 'M3 3v6', 'M17 21h6'),
  plane: own('M3 16L9 6h12l-6 10z'), axis: own('M5 20L9 14', 'M10.5 12l.8-1.2', 'M13 8.5L18 3', 'M8 20a7 3 0 0 0 12-2'),
  frame: own('M5 19V5', 'M5 19h13', 'M5 19l6-6', 'M3 7l2-2.5L7 7', 'M16 17l2.5 2L16 21'), port: own('M7 12a5 5 0 1 0 10 0a5 5 0 1 0-10 0', 'M12 12V2', 'M9.5 4.5L12 2l2.5 2.5', 'M12 12h4'),
  set: own('M4 4h7v7H4z', 'M13 13h7v7h-7z', 'M13 7.5h4a3 3 0 0 1 3 3', 'M11 16.5H7a3 3 0 0 1-3-3'), thread: own('M8 3h8', 'M7 7l10-2', 'M7 11l10-2', 'M7 15l10-2', 'M7 19l10-2', 'M9 21h6'),
  rib: own('M4 4v16h16', 'M4 9l11 11', 'M9 14v6'), thicken: own('M4 17c5-9 11-9 16 0', 'M4 12c5-9 11-9 16 0', 'M4 12v5', 'M20 12v5'),
  moveFaces: own('M4 18h16', 'M6 18v-5h5v5', 'M13 9h5', 'M16 6.5L18.5 9 16 11.5'), replaceFace: own('M4 20h16', 'M4 20v-6h16v6', 'M4 8c5-4 11-4 16 0', 'M12 13V9'),
  splitFaces: own('M4 6h16v12H4z', 'M13 6c-4 4 4 8-1 12'), emboss: own('M3 19h18', 'M7 15L10 5h4l3 10', 'M8.5 11h7'), align: own('M4 4v16', 'M8 7h6v4H8z', 'M8 13h11v4H8z'),
  copiesCurve: own('M4 19c1-9 7-14 16-14', 'M3 16h4v4H3z', 'M8 8h4v4H8z', 'M17 3h4v4h-4z'), copiesFill: own('M4 7c5-4 12-3 16 1v9c-5 4-12 3-16-1z', 'M8 10v.01', 'M12 10v.01', 'M16 11v.01', 'M10 14v.01', 'M14 14v.01'),
  hole: own('M3 12a9 9 0 1 0 18 0a9 9 0 1 0-18 0', 'M12 12v.01', 'M8.5 12a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0-7 0'),
  fillet: own('M4 20V14C4 8.5 8.5 4 14 4h6', 'M4 9V4h5'),
  chamfer: own('M4 20V12L12 4h8', 'M4 8V4h4'),
  import: Import,
  alert: AlertTriangle, box: Box, check: Check, down: ChevronDown, right: ChevronRight, up: ChevronUp, circle: Circle, clock: Clock,
  combine: Combine, command: Terminal, refer: Crosshair, download: Download, dot: Dot, more: EllipsisVertical, eye: Eye, eyeoff: EyeOff, paint: Paintbrush, part: FileBox,
  gauge: Gauge, ruler: Ruler, grid: Grid2x2, hand: Hand, help: HelpCircle, layers: Layers, link: Link2, fit: Maximize, minus: Minus, moon: Moon,
  move: Move, slider: MoveHorizontal, assembly: Package, play: Play, plus: Plus, redo: Redo2, revolute: RotateCw, cut: Scissors,
  search: Search, shapes: Shapes, curve: Spline, square: Square, panes: SquareSplitHorizontal, faces: FaceSquare, sun: Sun, settings: SlidersHorizontal, bin: Trash2, undo: Undo2,
  upload: Upload, close: X, cross: XSquare, support: ArrowDownToLine,
  study: own('M3 19h18', 'M5 19V9', 'M5 9c5 0 9 1.5 14 5', 'M19 5v7', 'M16.5 9.5L19 12l2.5-2.5'),
  line: own('M5 19L19 5', 'M4 19a1 1 0 1 0 2 0a1 1 0 1 0-2 0', 'M18 5a1 1 0 1 0 2 0a1 1 0 1 0-2 0'),
  rectangle: own('M4 6h16v12H4z'),
  centre_rectangle: own('M4 6h16v12H4z', 'M12 10.5v3', 'M10.5 12h3'),
  arc: own('M5 18C5 10 11 5 19 5', 'M4 18a1 1 0 1 0 2 0a1 1 0 1 0-2 0', 'M18 5a1 1 0 1 0 2 0a1 1 0 1 0-2 0'),
  rectangle3: own('M4 12L12 4l8 8-8 8z', 'M4 12l8 8'), polygon: own('M12 3l7.8 4.5v9L12 21l-7.8-4.5v-9z'),
  circle2: own('M4 12a8 8 0 1 0 16 0a8 8 0 1 0-16 0', 'M4 12h16'), circle3: own('M4 12a8 8 0 1 0 16 0a8 8 0 1 0-16 0', 'M12 4v.01', 'M5.1 16v.01', 'M18.9 16v.01'),
  arc_tangent: own('M3 18h7', 'M10 18c6 0 9-4 9-11'), ellipse: own('M3 12a9 5.5 0 1 0 18 0a9 5.5 0 1 0-18 0'), elliptic_arc: own('M3 12a9 5.5 0 0 1 18 0', 'M3 12v.01', 'M21 12v.01'),
  slot: own('M8 7h8a5 5 0 0 1 0 10H8A5 5 0 0 1 8 7z'), arc_slot: own('M3 15a9 9 0 0 1 18 0a2.5 2.5 0 0 1-5 0a4 4 0 0 0-8 0a2.5 2.5 0 0 1-5 0z'),
  control_spline: own('M4 19C7 6 16 20 20 5', 'M4 19L8 7', 'M20 5l-4 12'), conic: own('M4 20C6 8 12 4 20 4', 'M4 20L8 4h12'),
  text: own('M5 6V4h14v2', 'M12 4v16', 'M9 20h6'), handle: own('M4 20C8 10 13 9 20 9', 'M11 10.5L5 5', 'M4 4a1 1 0 1 0 2 0a1 1 0 1 0-2 0', 'M10 10.5a1 1 0 1 0 2 0a1 1 0 1 0-2 0'),
  insert_point: own('M3 18C7 8 14 8 17 10', 'M9 10.5a1 1 0 1 0 2 0a1 1 0 1 0-2 0', 'M19 14v6', 'M16 17h6'), take_out_point: own('M3 18C7 8 14 8 17 10', 'M9 10.5a1 1 0 1 0 2 0a1 1 0 1 0-2 0', 'M16 17h6'),
  text_height: own('M5 20L10 5l5 15', 'M7 14h6', 'M20 5v15', 'M18 7l2-2 2 2', 'M18 18l2 2 2-2'), least_radius: own('M4 19C4 10 10 4 19 4', 'M19 19L9 9', 'M9 13V9h4'),
  trim: own('M4 12h5', 'M15 12h5', 'M10 5l4 14', 'M11 12h.01'), split: own('M4 12h6', 'M14 12h6', 'M12 8v8'), extend: own('M4 12h8', 'M14.5 12h.01', 'M17 12h.01', 'M20 5v14'),
  offset: own('M4 18V8h10', 'M9 20v-7h10'), copies: own('M4 9h4v6H4z', 'M10 9h4v6h-4z', 'M16 9h4v6h-4z'), copies_round: own('M10.5 4h3v3h-3z', 'M17 13.5h3v3h-3z', 'M4 13.5h3v3H4z', 'M12 12v.01'),
  scale: own('M4 14v6h6', 'M4 20L20 4', 'M14 4h6v6'), curvature: own('M3 17c5 0 7-10 18-10', 'M8 15l-2-4', 'M13 10l-3-4'), collinear: own('M3 19l5-5', 'M11 11l2-2', 'M16 6l5-5'),
  equal_spacing: own('M5 6v12', 'M12 6v12', 'M19 6v12', 'M7 12h3', 'M14 12h3'),
  arc3: own('M4 17C6 6 18 6 20 17', 'M11 8.8a1 1 0 1 0 2 0a1 1 0 1 0-2 0'),
  point: own('M10.5 12a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0', 'M12 4v3', 'M12 17v3', 'M4 12h3', 'M17 12h3'),
  dimension: own('M4 7v10', 'M20 7v10', 'M5 12h14', 'M8 9l-3 3 3 3', 'M16 9l3 3-3 3'),
  construction: own('M3 21L8 16', 'M10.5 13.5l.01-.01', 'M13 11l5-5', 'M20.5 3.5l.01-.01'),
  coincident: own('M12 12v.01', 'M7 12a5 5 0 1 0 10 0a5 5 0 1 0-10 0'),
  horizontal: own('M4 12h16'), vertical: own('M12 4v16'),
  parallel: own('M6 19L12 5', 'M12 19L18 5'), perpendicular: own('M12 4v15', 'M5 19h14'),
  tangent: own('M4 19h16', 'M7 13a5.5 5.5 0 1 0 11 0a5.5 5.5 0 1 0-11 0'),
  equal: own('M5 9h14', 'M5 15h14'), concentric: own('M4 12a8 8 0 1 0 16 0a8 8 0 1 0-16 0', 'M9 12a3 3 0 1 0 6 0a3 3 0 1 0-6 0'),
  midpoint: own('M4 18L20 6', 'M10.5 12a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0'),
  symmetric: own('M12 3v18', 'M5 8l3 4-3 4', 'M19 8l-3 4 3 4'),
  on_curve: own('M4 17C8 7 15 6 20 8', 'M10.5 9.5a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0'),
  fixed: own('M12 4v9', 'M6 13h12', 'M7 13l-2 4', 'M12 13l-2 4', 'M17 13l-2 4'),
  rigid: own('M5 5h6v6H5z', 'M13 13h6v6h-6z', 'M11 11l2 2'),
  mesh: own('M3 19L12 4l9 15z', 'M7.5 11.5L12 19l4.5-7.5', 'M7.5 11.5h9'),
  force: own('M12 3v14', 'M7 12l5 5 5-5', 'M4 21h16'), pressure: own('M4 20h16', 'M6 4v10', 'M12 4v10', 'M18 4v10', 'M4.5 12L6 14l1.5-2', 'M10.5 12l1.5 2 1.5-2', 'M16.5 12l1.5 2 1.5-2'),
  gravity: own('M12 3v12', 'M7 11l5 5 5-5', 'M8 20h8'),
} as const
export type IconName = keyof typeof icons

import { useEffect, useRef, useState } from "react";
import type { Node } from "../figure/nodes";
import { paint } from "../figure/paint";

interface Props {
  nodes: Node[];
  width: number;
  height: number;
  font: string;
}

/** Nodes painted on a canvas, as sharp as the screen is. */
export function Painted({ nodes, width, height, font }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [fontsReady, setFontsReady] = useState(false);
  useEffect(() => {
    void document.fonts.ready.then(() => setFontsReady(true));
  }, []);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!canvas.current || !context) return;
    const ratio = window.devicePixelRatio || 1;
    // setting its size clears it
    canvas.current.width = Math.round(width * ratio);
    canvas.current.height = Math.round(height * ratio);
    paint(context, nodes, font, ratio);
  }, [nodes, width, height, font, fontsReady]);
  return <canvas ref={canvas} style={{ width, height, display: "block" }} />;
}

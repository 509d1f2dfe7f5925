import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { type ReactNode, useEffect, useRef } from "react";
import type { DirectionalLight, PerspectiveCamera } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { pickEdges } from "../pick/edges";
import { useAppearance } from "./appearance";
import { drawnInSoftware } from "./software";
import { exposeForTests, setDepth, setParallel, stage } from "./stage";
import { turnAboutPointer } from "./turnAboutPointer";
import { useKeptInView } from "./useKeptInView";

/** Camera controls and the bookkeeping of frames; light comes from over the shoulder, wherever the camera is. */
function Rig({ onFrame }: { onFrame: () => void }) {
  const camera = useThree((s) => s.camera) as PerspectiveCamera;
  const gl = useThree((s) => s.gl);
  const invalidate = useThree((s) => s.invalidate);
  const lamp = useRef<DirectionalLight>(null);
  useEffect(() => {
    camera.up.set(0, 0, 1);
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enableDamping = false;
    controls.addEventListener("change", () => invalidate());
    const stop = turnAboutPointer(controls, camera, gl.domElement);
    stage.now = { camera, controls, canvas: gl.domElement, gl, invalidate };
    exposeForTests({ pickEdges });
    return () => {
      stop();
      controls.dispose();
      stage.now = null;
    };
  }, [camera, gl, invalidate]);
  useKeptInView();
  const parallel = useAppearance((s) => s.parallel);
  useEffect(() => setParallel(parallel), [parallel]);
  useFrame(() => {
    setDepth();
    lamp.current?.position.copy(camera.position).add({ x: 0, y: 0, z: camera.position.length() * 0.4 });
    stage.frame++;
    document.documentElement.dataset.frame = String(stage.frame);
    onFrame();
  });
  return (
    <>
      <hemisphereLight args={["#ffffff", "#8b8576", 1.15]} />
      <directionalLight ref={lamp} intensity={1.9} />
    </>
  );
}

interface Props {
  children: ReactNode;
  onFrame: () => void;
}

export function Stage({ children, onFrame }: Props) {
  // Smooth edges take the processor nearly half of every picture's time: where it draws, turning the part goes first.
  const plain = new URLSearchParams(window.location.search).has("plain") || drawnInSoftware();
  return (
    <Canvas
      frameloop="demand"
      dpr={plain ? 1 : [1, 2]}
      gl={{ antialias: !plain, alpha: true, stencil: true, localClippingEnabled: true }}
      camera={{ fov: 28, position: [300, -400, 300], near: 1, far: 5000 }}
      role="group"
      aria-label="3D view of scan and bodies"
    >
      <Rig onFrame={onFrame} />
      {children}
    </Canvas>
  );
}

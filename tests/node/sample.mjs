// Plays an animation of a GLB with three.js and prints node matrices and morph weights.
// usage: node sample.mjs FILE.glb TIMES.json [NUMBER]   (seconds; of the first animation)
import { readFileSync } from "node:fs";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { AnimationMixer, LoopOnce } from "three";

const [file, timesFile, number = "0"] = process.argv.slice(2);
const times = JSON.parse(readFileSync(timesFile, "utf8"));
const bytes = readFileSync(file);
const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength);
const gltf = await new Promise((resolve, reject) =>
  new GLTFLoader().parse(buffer, "", resolve, reject),
);
const clip = gltf.animations[Number(number)];
const mixer = new AnimationMixer(gltf.scene);
const action = mixer.clipAction(clip);
action.setLoop(LoopOnce);
action.clampWhenFinished = true;
action.play();
const names = gltf.parser.json.nodes.map((node) => node.name);
const frames = [];
for (const time of times) {
  mixer.setTime(time);
  gltf.scene.updateMatrixWorld(true);
  const matrices = {};
  const weights = {};
  gltf.scene.traverse((object) => {
    const association = gltf.parser.associations.get(object);
    if (association && association.nodes !== undefined && !object.isSkinnedMesh)
      matrices[names[association.nodes]] = object.matrixWorld.elements.slice();
    if (object.morphTargetInfluences && object.morphTargetDictionary)
      for (const [name, index] of Object.entries(object.morphTargetDictionary))
        weights[name] = object.morphTargetInfluences[index];
  });
  frames.push({ matrices, weights });
}
process.stdout.write(JSON.stringify({ duration: clip.duration, frames }));

// Poses a GLB with three.js and prints where joints and some vertices are.
// usage: node pose.mjs FILE.glb POSE.json   (POSE: {node name: [x, y, z, w]})
import { readFileSync } from "node:fs";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { Vector3 } from "three";

const [file, poseFile] = process.argv.slice(2);
const pose = JSON.parse(readFileSync(poseFile, "utf8"));
const bytes = readFileSync(file);
const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength);
const gltf = await new Promise((resolve, reject) =>
  new GLTFLoader().parse(buffer, "", resolve, reject),
);
const joints = {};
const vertices = [];
gltf.scene.traverse((object) => {
  if (object.name in pose) object.quaternion.fromArray(pose[object.name]);
});
gltf.scene.updateMatrixWorld(true);
gltf.scene.traverse((object) => {
  if (object.isBone) joints[object.name] = object.matrixWorld.elements.slice();
  if (object.isSkinnedMesh) {
    object.skeleton.update();
    const count = object.geometry.attributes.position.count;
    const found = [];
    for (let i = 0; i < count; i += 7) {
      const v = new Vector3().fromBufferAttribute(object.geometry.attributes.position, i);
      object.applyBoneTransform(i, v);
      v.applyMatrix4(object.matrixWorld);
      found.push([v.x, v.y, v.z]);
    }
    vertices.push({ count, found });
  }
});
process.stdout.write(JSON.stringify({ joints, vertices }));

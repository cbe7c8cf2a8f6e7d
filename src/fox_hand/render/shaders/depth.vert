#version 330
invariant gl_Position; // depth is drawn first, and must be the same
uniform mat4 to_clip;
in vec3 in_position;
void main() { gl_Position = to_clip * vec4(in_position, 1.0); }

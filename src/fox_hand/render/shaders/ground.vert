#version 330
in vec2 in_corner;
out vec2 at;
void main() { at = in_corner; gl_Position = vec4(in_corner, 0.9999, 1.0); }

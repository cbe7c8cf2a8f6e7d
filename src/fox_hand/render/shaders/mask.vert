#version 330
uniform mat4 to_clip;
in vec3 in_position;
in float in_share;
out float share;
void main() { share = in_share; gl_Position = to_clip * vec4(in_position, 1.0); }

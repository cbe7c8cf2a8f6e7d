#version 330
in float share;
out vec4 colour;
void main() { colour = vec4(share > 0.5 ? 1.0 : 0.0); }

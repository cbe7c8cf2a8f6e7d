#version 330
uniform mat4 to_clip;
uniform vec4 factor;
uniform float layer; // how far back it lies among drawings, -1 to 1; 2 where it lies in space
in vec3 in_position;
in vec2 in_uv;
in vec4 in_colour;
out vec2 uv;
out vec4 tint;
void main()
{
    uv = in_uv;
    tint = vec4(pow(factor.rgb * in_colour.rgb, vec3(1.0 / 2.2)), factor.a * in_colour.a);
    gl_Position = to_clip * vec4(in_position, 1.0);
    if (layer < 2.0) gl_Position.z = layer * gl_Position.w;
}

#version 330
uniform mat4 to_clip;
in vec3 in_position;
in vec2 in_uv;
in vec4 in_colour;
out vec2 uv;
out vec4 tint;
void main()
{
    uv = in_uv;
    tint = in_colour;
    gl_Position = to_clip * vec4(in_position, 1.0);
}

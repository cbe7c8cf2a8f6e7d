#version 330
uniform mat4 to_clip;
in vec3 in_position;
in float in_share;
in vec2 in_uv;
out float share;
out vec2 uv;
void main()
{
    share = in_share;
    uv = in_uv;
    gl_Position = to_clip * vec4(in_position, 1.0);
}

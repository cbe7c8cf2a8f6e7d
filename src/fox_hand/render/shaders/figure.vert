#version 330
invariant gl_Position; // depth is drawn first, and must be the same
uniform mat4 to_clip;
uniform mat4 to_light;
in vec3 in_position;
in vec3 in_normal;
in vec2 in_uv;
in vec4 in_colour;
out vec3 place;
out vec3 normal;
out vec2 uv;
out vec4 tint;
out vec4 lit;
void main()
{
    place = in_position;
    normal = in_normal;
    uv = in_uv;
    tint = in_colour;
    lit = to_light * vec4(in_position, 1.0);
    gl_Position = to_clip * vec4(in_position, 1.0);
}

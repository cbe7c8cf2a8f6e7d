#version 330
uniform mat4 to_clip;
uniform mat4 to_light;
uniform vec3 centre;
uniform float reach;
in vec2 in_corner;
out vec4 lit;
out vec2 at;
void main()
{
    vec3 p = centre + vec3(in_corner.x, 0.0, in_corner.y) * reach;
    at = in_corner;
    lit = to_light * vec4(p, 1.0);
    gl_Position = to_clip * vec4(p, 1.0);
}

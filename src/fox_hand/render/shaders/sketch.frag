#version 330
// Colour under the light that sketch.vert worked out.
uniform sampler2D picture;
uniform vec4 factor;
uniform float cutoff;
uniform vec3 glow;
in vec2 uv;
in vec4 tint;
in vec3 light;
in vec3 beyond;
out vec4 colour;

void main()
{
    vec4 texture_colour = texture(picture, uv);
    vec3 t = texture_colour.rgb;
    vec3 base = factor.rgb * tint.rgb * t * t * (0.75 + 0.25 * t); // the power of 2.2, nearly
    if (factor.a * tint.a * texture_colour.a < cutoff) discard;
    vec3 key_colour = vec3(1.0, 0.92, 0.80) * 1.62;
    vec3 rim_colour = vec3(1.0, 0.86, 0.68) * 1.15;
    float warm = clamp((base.r - base.b) * 2.2, 0.0, 1.0);
    vec3 c = base * (light + key_colour * vec3(0.18, 0.04, 0.013) * warm * beyond.x) + glow;
    c += rim_colour * beyond.y * (0.12 + 0.55 * base) + key_colour * beyond.z;
    c = c * 1.02;
    c = (c * (2.51 * c + 0.03)) / (c * (2.43 * c + 0.59) + 0.14);
    vec3 root = sqrt(clamp(c, 0.0, 1.0));
    colour = vec4(0.85 * root + 0.15 * sqrt(root), 1.0); // the power of 1 / 2.2, within 0.01
}

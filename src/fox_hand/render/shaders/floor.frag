#version 330
// Darkens the ground where the figure keeps the light away; blended by multiplication.
uniform sampler2DShadow shadow;
uniform float texel;
// TAPS is set when the shader is built: loops of a fixed length are quick everywhere
uniform vec4 feet[8]; // x, z, radius, strength of the dark under what touches the floor
uniform vec3 centre;
uniform float reach;
in vec4 lit;
in vec2 at;
out vec4 colour;
void main()
{
    float rim = length(at);
    vec3 s = lit.xyz / lit.w * 0.5 + 0.5;
    float light = 0.0;
    for (int x = -TAPS; x <= TAPS; ++x)
        for (int y = -TAPS; y <= TAPS; ++y)
            light += texture(shadow, vec3(s.xy + vec2(x, y) * 1.9 * texel, s.z - 0.001));
    light /= float((2 * TAPS + 1) * (2 * TAPS + 1));
    vec2 inside = step(vec2(0.0), s.xy) * step(s.xy, vec2(1.0));
    light = mix(1.0, light, inside.x * inside.y);
    light = mix(light, 1.0, smoothstep(0.55, 1.0, rim));
    float touch = 1.0;
    vec2 here = centre.xz + at * reach;
    for (int i = 0; i < 8; ++i) {
        vec2 d = here - feet[i].xy;
        touch *= 1.0 - feet[i].w * exp(-dot(d, d) / max(feet[i].z * feet[i].z, 1e-9));
    }
    float k = (1.0 - (1.0 - light) * 0.34) * touch;
    colour = vec4(k, pow(k, 1.08), pow(k, 1.12), 1.0);
}

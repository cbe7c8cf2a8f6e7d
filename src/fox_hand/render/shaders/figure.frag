#version 330
// A warm key, a cool fill and two rims on wrapped diffuse shading, with a soft shadow.
uniform sampler2D picture;
uniform sampler2DShadow shadow;
uniform vec4 factor;
uniform float roughness;
uniform float cutoff;
uniform vec3 glow;
uniform float texel;
uniform bool two_sided;
uniform vec3 eye;
uniform vec3 key;
uniform vec2 about; // cosine and sine of the angle by which the lights stand about the figures
uniform int style; // 0 as lit, 1 clay, 2 what an outline is drawn from
in vec3 place;
in vec3 normal;
in vec2 uv;
in vec4 tint;
in vec4 lit;
out vec4 colour;

float daylight()
{
    vec3 s = lit.xyz / lit.w * 0.5 + 0.5;
    float sum = 0.0;
    for (int x = -TAPS; x <= TAPS; ++x)
        for (int y = -TAPS; y <= TAPS; ++y)
            sum += texture(shadow, vec3(s.xy + vec2(x, y) * 1.5 * texel, s.z - 0.0035));
    float n = float(2 * TAPS + 1); // TAPS is set when the shader is built
    vec2 inside = step(vec2(0.0), s.xy) * step(s.xy, vec2(1.0));
    return mix(1.0, sum / (n * n), inside.x * inside.y);
}

vec3 finish(vec3 c) // a filmic curve, then sRGB
{
    c = c * 1.02;
    c = (c * (2.51 * c + 0.03)) / (c * (2.43 * c + 0.59) + 0.14);
    return pow(clamp(c, 0.0, 1.0), vec3(1.0 / 2.2));
}

vec3 around(vec3 way)
{
    return normalize(vec3(about.x * way.x + about.y * way.z, way.y, about.x * way.z - about.y * way.x));
}

void main()
{
    vec4 texture_colour = texture(picture, uv);
    vec3 base = factor.rgb * tint.rgb * pow(texture_colour.rgb, vec3(2.2));
    float alpha = factor.a * tint.a * texture_colour.a;
    if (alpha < cutoff) discard;
    vec3 N = normalize(normal);
    vec3 V = normalize(eye - place);
    if (two_sided && dot(N, V) < 0.0) N = -N;
    if (style == 2) { // which way it faces, and how light it is: lines lie where these jump
        vec3 side = normalize(cross(vec3(0.0, 1.0, 0.0), V));
        float light = dot(base, vec3(0.21, 0.72, 0.07));
        colour = vec4(dot(N, side) * 0.5 + 0.5, dot(N, cross(V, side)) * 0.5 + 0.5, pow(light, 1.0 / 2.2), 1.0);
        return;
    }
    if (style == 1) { // one warm clay; dark parts stay a little darker, or eyes would be gone
        float light = dot(base, vec3(0.21, 0.72, 0.07));
        base = vec3(0.62, 0.55, 0.49) * mix(0.35, 1.0, smoothstep(0.0, 0.12, light));
    }
    vec3 fill_dir = around(vec3(0.85, 0.25, 0.65));
    vec3 rim_a = around(vec3(0.75, 0.55, -0.9)), rim_b = around(vec3(-0.9, 0.35, -0.75));
    vec3 key_colour = vec3(1.0, 0.92, 0.80) * 1.62;
    vec3 fill_colour = vec3(0.58, 0.72, 0.95) * 0.36;
    vec3 rim_colour = vec3(1.0, 0.86, 0.68) * 1.15;

    float nl = dot(N, key);
    float sun = daylight() * step(-0.35, nl);
    float wrap = mix(0.45, 0.30, roughness);
    float d = clamp((nl + wrap) / (1.0 + wrap), 0.0, 1.0);
    vec3 diffuse = vec3(d * (d * 0.35 + 0.65) * mix(0.24, 1.0, sun));
    float warm = clamp((base.r - base.b) * 2.2, 0.0, 1.0); // flesh lets red light through
    diffuse += vec3(0.18, 0.04, 0.013) * warm * smoothstep(-0.45, 0.1, nl) * smoothstep(0.65, 0.05, nl);
    vec3 ambient = mix(vec3(0.42, 0.30, 0.22), vec3(0.68, 0.72, 0.80), N.y * 0.5 + 0.5) * 0.50;
    float fill = clamp((dot(N, fill_dir) + 0.35) / 1.35, 0.0, 1.0);
    vec3 c = base * (key_colour * diffuse + fill_colour * fill + ambient) + glow;

    float edge = pow(1.0 - clamp(dot(N, V), 0.0, 1.0), 3.2);
    float rim = clamp(dot(N, rim_a) + 0.25, 0.0, 1.0) + 0.7 * clamp(dot(N, rim_b) + 0.2, 0.0, 1.0);
    float open_sky = clamp(dot(tint.rgb, vec3(2.0)), 0.0, 1.0);
    c += rim_colour * edge * rim * (0.12 + 0.55 * base) * open_sky;

    float smoothness = style == 1 ? 0.25 : 1.0 - roughness;
    vec3 H = normalize(key + V);
    float gloss = mix(9.0, 90.0, smoothness * smoothness);
    c += key_colour * 0.42 * smoothness * smoothness * pow(max(dot(N, H), 0.0), gloss) * sun;
    float wet = style == 1 ? 0.0 : smoothstep(0.25, 0.05, roughness); // eyes: a window's reflection
    if (wet > 0.0) {
        vec3 R = reflect(-V, N);
        float g = pow(max(dot(R, normalize(vec3(-0.45, 0.62, 0.75))), 0.0), 90.0);
        c += wet * (vec3(2.0) * smoothstep(0.25, 0.6, g));
    }
    colour = vec4(finish(c), 1.0);
}

#version 330
// The light of figure.frag worked out at the vertices: far fewer than the pixels that small
// triangles touch on a processor without graphics hardware. For quick pictures.
uniform mat4 to_clip;
uniform mat4 to_light;
uniform sampler2DShadow shadow;
uniform float roughness;
uniform bool two_sided;
uniform vec3 eye;
uniform vec3 key;
uniform vec2 about; // cosine and sine of the angle by which the lights stand about the figures
in vec3 in_position;
in vec3 in_normal;
in vec2 in_uv;
in vec4 in_colour;
out vec2 uv;
out vec4 tint;
out vec3 light;   // what the colour is multiplied with
out vec3 beyond;  // how much flesh lets through, how much rim, how much gloss

float daylight()
{
    vec4 lit = to_light * vec4(in_position, 1.0);
    vec3 s = lit.xyz / lit.w * 0.5 + 0.5;
    vec2 inside = step(vec2(0.0), s.xy) * step(s.xy, vec2(1.0));
    return mix(1.0, textureLod(shadow, vec3(s.xy, s.z - 0.0035), 0.0), inside.x * inside.y);
}

vec3 around(vec3 way)
{
    return normalize(vec3(about.x * way.x + about.y * way.z, way.y, about.x * way.z - about.y * way.x));
}

void main()
{
    uv = in_uv;
    tint = in_colour;
    gl_Position = to_clip * vec4(in_position, 1.0);
    vec3 N = normalize(in_normal);
    vec3 V = normalize(eye - in_position);
    if (two_sided && dot(N, V) < 0.0) N = -N;
    vec3 fill_dir = around(vec3(0.85, 0.25, 0.65));
    vec3 rim_a = around(vec3(0.75, 0.55, -0.9)), rim_b = around(vec3(-0.9, 0.35, -0.75));
    vec3 key_colour = vec3(1.0, 0.92, 0.80) * 1.62;
    vec3 fill_colour = vec3(0.58, 0.72, 0.95) * 0.36;

    float nl = dot(N, key);
    float sun = daylight() * step(-0.35, nl);
    float wrap = mix(0.45, 0.30, roughness);
    float d = clamp((nl + wrap) / (1.0 + wrap), 0.0, 1.0);
    float diffuse = d * (d * 0.35 + 0.65) * mix(0.24, 1.0, sun);
    vec3 ambient = mix(vec3(0.42, 0.30, 0.22), vec3(0.68, 0.72, 0.80), N.y * 0.5 + 0.5) * 0.50;
    float fill = clamp((dot(N, fill_dir) + 0.35) / 1.35, 0.0, 1.0);
    light = key_colour * diffuse + fill_colour * fill + ambient;

    float edge = pow(1.0 - clamp(dot(N, V), 0.0, 1.0), 3.2);
    float rim = clamp(dot(N, rim_a) + 0.25, 0.0, 1.0) + 0.7 * clamp(dot(N, rim_b) + 0.2, 0.0, 1.0);
    float smoothness = 1.0 - roughness;
    float gloss = pow(max(dot(N, normalize(key + V)), 0.0), mix(9.0, 90.0, smoothness * smoothness));
    beyond.x = smoothstep(-0.45, 0.1, nl) * smoothstep(0.65, 0.05, nl);
    beyond.y = edge * rim * clamp(dot(tint.rgb, vec3(2.0)), 0.0, 1.0);
    beyond.z = 0.42 * smoothness * smoothness * gloss * sun;
}

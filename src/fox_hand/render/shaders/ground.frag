#version 330
uniform vec3 middle;
uniform vec3 edge;
uniform float aspect;
uniform float grain; // against banding; small pictures go without, they compress better
in vec2 at;
out vec4 colour;
void main()
{
    float d = length(vec2(at.x * min(aspect, 1.4) * 0.75, at.y + 0.05));
    vec3 c = mix(middle, edge, smoothstep(0.15, 1.65, d));
    float noise = fract(sin(dot(gl_FragCoord.xy, vec2(12.9, 78.2))) * 43758.5) - 0.5;
    colour = vec4(c + grain * noise / 255.0, 1.0);
}

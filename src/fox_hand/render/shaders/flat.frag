#version 330
// A drawing as its author saw it: no light, its own colours, laid over what is behind it.
uniform sampler2D picture;
uniform vec4 factor;
uniform int style; // 0 as drawn, 1 clay, 2 what an outline is drawn from
in vec2 uv;
in vec4 tint;
out vec4 colour;
void main()
{
    vec4 drawn = texture(picture, uv);
    vec3 c = drawn.rgb * pow(factor.rgb * tint.rgb, vec3(1.0 / 2.2));
    float alpha = factor.a * tint.a * drawn.a;
    if (alpha < 0.002) discard;
    float light = dot(c, vec3(0.21, 0.72, 0.07));
    if (style == 1) c = vec3(0.87, 0.80, 0.73) * mix(0.4, 1.0, light);
    if (style == 2) c = vec3(0.5, 0.5, light);
    colour = vec4(c, alpha);
}

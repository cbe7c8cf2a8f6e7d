#version 330
uniform sampler2D picture;
uniform bool drawn; // whether only what is drawn counts, not all of the quad
in float share;
in vec2 uv;
out vec4 colour;
void main()
{
    if (drawn && texture(picture, uv).a < 0.5) discard;
    colour = vec4(share > 0.5 ? 1.0 : 0.0);
}

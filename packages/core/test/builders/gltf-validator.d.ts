declare module 'gltf-validator' {
  const validator: {
    validateString(
      text: string,
      options?: object,
    ): Promise<{ issues: { numErrors: number; messages: { severity: number; code: string; message: string }[] } }>;
  };
  export default validator;
}

/** Opens the database and looks for the pod when the server starts, not when the first page asks. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { server } = await import('./server/index.ts');
  await server();
}
